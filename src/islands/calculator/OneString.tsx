import { halves, sayTurns, sayWinds } from '../../../core/count';
import { type Build, PART_NAMES } from '../../../core/instruments/build';
import { CORES_OF } from '../../../core/instruments/validity';
import { isLocking } from '../../../core/parts/tuners';
import { workingOrder } from '../../../core/procedures/method';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord, stringLabel } from '../../../core/procedures/words';
import { buttonTurns } from '../../../core/settling/slip';
import { type CoreMaterial, MATERIAL_NAMES, type Material, WRAP_MATERIALS } from '../../../core/strings/materials';
import { mmOfThou, thouOf } from '../../../core/strings/tension';
import { tightens } from '../../../core/winding/post';
import { HeadDrawing } from '../../components/drawings/HeadDrawing';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { Field } from '../../ui/Field';
import { Fact, NumberField } from './fields';
import { LITTLE_MARGIN, own, round } from './known';
import type { Calculation } from './useCalculator';

/** The chosen string: its slack by each school, its winds on this post, and what it has left. */
export function OneString({ of, one }: { of: Calculation; one: NonNullable<Calculation['one']> }) {
  const { build, method, position } = of;
  const { known, rows, row, n, slot } = one;
  const margin = of.pullAt(position.number)?.margin ?? null;
  const set = (to: Parameters<typeof own>[1]) => of.setString(position.number, own(known, to));
  const post = (to: Partial<Build['post']>) => of.setBuild({ ...build, post: { ...build.post, ...to } });
  return (
    <section aria-labelledby="one" className="grid gap-x-6 gap-y-4 xl:grid-cols-2 items-start *:min-w-0">
      <div>
        <h2 id="one" className="font-bold mb-2">
          {stringLabel(build, position)}: {n.slackMm.toFixed(0)} mm of slack, about {sayWinds(n.winds.turns)}
        </h2>
        <div className="card-paper px-4 py-3 grid gap-3 grid-cols-2 md:grid-cols-3">
          <Field label="Slack rule" className="col-span-2 md:col-span-3">
            <select className="select w-full" value={row.id} onChange={(e) => of.setSlackId(e.target.value)}>
              {rows.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}: {r.slackMm.toFixed(0)} mm, about {sayWinds(r.turns)}
                  {r.isHouse ? ', usual' : ''}
                </option>
              ))}
            </select>
          </Field>
          <Field label="Core material">
            <select
              className="select w-full"
              value={known.core}
              onChange={(e) => set({ core: e.target.value as CoreMaterial })}
            >
              {[...new Set([...CORES_OF[build.family], known.core])].map((c) => (
                <option key={c} value={c}>
                  {MATERIAL_NAMES[c]}
                </option>
              ))}
            </select>
          </Field>
          <Field label="Winding">
            <select
              className="select w-full"
              value={known.wrap ?? ''}
              onChange={(e) => set({ wrap: (e.target.value || null) as Material | null })}
            >
              <option value="">plain</option>
              {WRAP_MATERIALS.map((w) => (
                <option key={w} value={w}>
                  {MATERIAL_NAMES[w]}
                </option>
              ))}
            </select>
          </Field>
          {known.wrap !== null && (
            <NumberField
              label="Core gauge, in/1000"
              value={round(thouOf(known.coreMm), 1)}
              change={(thou) => set({ coreMm: mmOfThou(thou) })}
              min={3}
              max={Math.max(4, Math.floor(thouOf(known.gaugeMm)) - 1)}
              step={0.5}
            />
          )}
          <NumberField
            label="Post diameter, mm"
            value={build.post.diameterMm}
            change={(diameterMm) => post({ diameterMm })}
            min={2}
            max={40}
            step={0.1}
          />
          <NumberField
            label="Post below the hole, mm"
            value={build.post.roomUnderHoleMm}
            change={(roomUnderHoleMm) => post({ roomUnderHoleMm })}
            min={1}
            max={60}
            step={0.5}
          />
          <NumberField
            label="Post spacing, mm"
            value={build.post.spacingMm}
            change={(spacingMm) => post({ spacingMm })}
            min={5}
            max={90}
            step={0.5}
          />
        </div>
        <dl className="card-paper px-4 py-1 mt-3">
          <Fact name="Winds">{`About ${sayWinds(n.winds.turns)} (${n.winds.coils} seen on the post): ${halves(n.winds.fromSlack)} from the slack, ${halves(n.winds.fromStretch)} as it comes up to pitch`}</Fact>
          {n.advice && (
            <Fact name="Use instead" bad>
              {n.advice}
            </Fact>
          )}
          <Fact name="Height of the winds">{`${n.winds.stackMm.toFixed(1)} of ${build.post.roomUnderHoleMm} mm below the hole`}</Fact>
          {build.head !== 'pegbox' && <Fact name="Cut, if cut before winding">{n.cut.says}</Fact>}
          <Fact
            name="Length"
            bad={n.reach.verdict !== 'reaches'}
          >{`${n.neededLengthMm.toFixed(0)} mm needed, ${known.lengthMm.toFixed(0)} mm there. ${n.reach.says}`}</Fact>
          {slot && (
            <Fact name="Nut slot" bad>
              {slot}
            </Fact>
          )}
          {margin?.semitones != null && (
            <Fact
              name="Margin before breaking"
              bad={margin.semitones < LITTLE_MARGIN}
            >{`${margin.semitones.toFixed(1)} semitones above ${position.note}; now at ${margin.stressMpa.toFixed(0)} of ${margin.strengthMpa?.toFixed(0)} MPa`}</Fact>
          )}
          {
            <Fact name="To drop a semitone">{`${one.slipMm.toFixed(2)} mm of string, ${sayTurns(buttonTurns(one.slipMm, build.post.diameterMm, known.gaugeMm, build.tuner))} of the button`}</Fact>
          }
        </dl>
      </div>
      <div className="grid grid-cols-2 gap-3 items-start max-w-[640px]">
        <PostDrawing
          kind={postWord(build)}
          turns={n.winds.turns}
          gaugeMm={known.gaugeMm}
          diameterMm={build.post.diameterMm}
          over={turnsOver(method, known.wrap !== null)}
          selfLock={method.winds === 'self-lock'}
          locking={isLocking(build)}
          slotted={build.tuner === 'slotted-post'}
          rotation={tightens(build.head, position.side, build.handedness)}
          stackMm={n.winds.stackMm}
          roomMm={build.post.roomUnderHoleMm}
        />
        <HeadDrawing
          build={build}
          order={workingOrder(build, build.positions, method.order).map((p) => p.number)}
          lit={position.number}
          cutMm={build.head === 'pegbox' ? null : n.cut.pastPostMm}
        />
        <p className="col-span-2 muted text-sm">
          {PART_NAMES[build.tuner]}; the numbers show the working order. The string leaves on the inside.
        </p>
      </div>
    </section>
  );
}
