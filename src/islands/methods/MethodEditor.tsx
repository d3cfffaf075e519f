import { useEffect, useMemo, useState } from 'react';
import {
  BRIDGES,
  type Build,
  FAMILY_NAMES,
  type Family,
  FINGERBOARDS,
  HEADS,
  PART_NAMES,
  STRING_ENDS,
  TAIL_ENDS,
  TUNERS,
} from '../../../core/instruments/build';
import { defaultBuild } from '../../../core/instruments/defaults';
import { impossibleBecause } from '../../../core/instruments/validity';
import { SAFE_SHARE } from '../../../core/load/during';
import { comesLoose, isTied } from '../../../core/parts/tailEnds';
import { composeProcedure } from '../../../core/procedures/compose';
import { applyHouse, type House, type HouseStep, problemsOf } from '../../../core/procedures/houseMethod';
import { adaptMethod, workingOrder } from '../../../core/procedures/method';
import { isLocking, markThinnestWound, stringNumbers } from '../../../core/procedures/numbers';
import { CHOICES, compareLoads, compareWinds, differences } from '../../../core/procedures/schools';
import { compareSlack, decidedByParts } from '../../../core/procedures/slackSchools';
import {
  type LastTime,
  type Method,
  PHASE_NAMES,
  PHASES,
  type Phase,
  type StringToFit,
} from '../../../core/procedures/types';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord, stringLabel } from '../../../core/procedures/words';
import { crossing } from '../../../core/winding/bass';
import { tightens } from '../../../core/winding/post';
import type { SlackRule } from '../../../core/winding/slack';
import { HeadDrawing } from '../../components/drawings/HeadDrawing';
import { LoadChart } from '../../components/drawings/LoadChart';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TailDrawing } from '../../components/drawings/TailDrawing';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { keepLocally, readLocally } from './draft';
import { StepList } from './StepList';

export interface MethodEditorProps {
  family: Family;
  version: number;
  house: House;
  /** The chosen instrument's build, or the family's usual one. */
  build: Build;
  strings: StringToFit[];
  /** Whether the strings are made up because the catalogue has none. */
  assumed: boolean;
  tag: string | null;
  last: LastTime | null;
  a4Hz: number;
  openJob: boolean;
}

const sameRule = (a: SlackRule | null, b: SlackRule) => JSON.stringify(a) === JSON.stringify(b);
const VERDICTS = { good: 'good', 'too-few': 'too few', 'too-many': 'too many', 'no-room': 'no room' };
const HOLDS = { clamped: 'clamped by its turns', friction: 'friction alone', locked: 'locked' };
const percent = (share: number) => `${Math.round(share * 100)} %`;

export function MethodEditor(props: MethodEditorProps) {
  const { family, version, strings, tag, a4Hz } = props;
  const [build, setBuild] = useState(props.build);
  const draftName = `arvick.house.${family}.${version}`;
  const [house, setHouse] = useState<House>(props.house);
  const [why, setWhy] = useState('');
  const [number, setNumber] = useState(build.positions[0]?.number ?? 1);
  const { run, busy: sending, says, quiet } = useCommand();
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const draft = readLocally<House>(draftName);
    if (draft) setHouse(draft);
    setReady(true);
  }, [draftName]);

  const { method } = house;
  const dirty = JSON.stringify(house) !== JSON.stringify(props.house);
  useEffect(() => {
    if (!ready) return;
    if (dirty) keepLocally(draftName, house);
    else localStorage.removeItem(draftName);
  }, [ready, dirty, house, draftName]);
  const change = (to: Partial<Method>) => {
    setHouse({ ...house, method: { ...method, ...to } });
    quiet();
  };

  const adapted = useMemo(() => adaptMethod(build, method, 'full-set'), [build, method]);
  const composed = useMemo(
    () => composeProcedure(build, method, strings, { last: props.last, a4Hz }),
    [build, method, strings, props.last, a4Hz],
  );
  const procedure = 'procedure' in composed ? applyHouse(build, composed.procedure, house) : null;
  const loads = useMemo(() => compareLoads(build, method, strings), [build, method, strings]);
  const winds = useMemo(() => compareWinds(build, method, strings), [build, method, strings]);
  const string = strings.find((s) => s.number === number) ?? (strings[0] as StringToFit);
  const position = build.positions.find((p) => p.number === string.number) as Build['positions'][number];
  const fits = useMemo(() => markThinnestWound(strings), [strings]);
  const meant = fits.find((s) => s.number === string.number) ?? string;
  const slack = useMemo(() => compareSlack(build, method, meant, a4Hz), [build, method, meant, a4Hz]);
  const numbers = stringNumbers(build, adapted.method, position, meant, a4Hz);
  const ties =
    procedure?.steps.find((s) => s.id === 'fit-tail.string' && s.positions.includes(string.number))?.numbers?.turns
      ?.value ?? 2;
  const fixedSlack = decidedByParts(build);
  const plain = !string.wound && method.slackPlain !== null;
  const thin = method.slackThinWound !== null && fits.some((s) => s.number === string.number && s.thinnestWound);
  const ruled = thin ? 'slackThinWound' : plain ? 'slackPlain' : 'slack';
  const problems = useMemo(() => (dirty ? problemsOf(build, house, strings) : []), [dirty, build, house, strings]);
  const differs = differences(props.house.method, method);
  const order = workingOrder(build, build.positions, adapted.method.order).map((p) => p.number);

  const save = async () => {
    if (!(await run(`/api/methods/${family}`, { expectedVersion: version, house, why }))) return;
    localStorage.removeItem(draftName);
    location.reload();
  };
  const once = async () => {
    if (!tag) return;
    const opened = await run('/api/jobs', { tag, departure: { method, reason: why } });
    if (!opened) return;
    localStorage.removeItem(draftName);
    location.assign(`/bench/${opened.jobId}`);
  };

  const atATime = CHOICES.atATime.find((c) => c.value === adapted.method.atATime)?.name ?? '';
  return (
    <div className="grid gap-6 *:min-w-0" data-ready={ready}>
      <div>
        <h1 className="text-2xl font-bold">
          {FAMILY_NAMES[family]}: {atATime.toLowerCase()},{' '}
          {procedure
            ? `${procedure.steps.length} steps, about ${Math.round(procedure.minutes)} minutes`
            : 'no procedure yet'}
        </h1>
        <p className="muted max-w-prose">
          {tag ? `With the numbers of ${tag}` : 'With the numbers of the usual build'}
          {props.assumed ? ' and strings a usual pull would ask for, as no set is known.' : ' and its strings.'}
        </p>
        {adapted.because.length > 0 && (
          <ul className="mt-2 grid gap-1" aria-label="Adapted to this build">
            {adapted.because.map((line) => (
              <li key={line} className="chip chip-settling whitespace-normal w-fit">
                {line}
              </li>
            ))}
          </ul>
        )}
        {'gaps' in composed && (
          <ul className="mt-2 text-error">
            {composed.gaps.map((g) => (
              <li key={g.needs}>{g.needs}</li>
            ))}
          </ul>
        )}
      </div>

      {!tag && <OtherBuild build={build} change={(parts) => setBuild(defaultBuild(family, build.size, parts))} />}

      <section aria-labelledby="loads" className="grid gap-x-6 gap-y-2 lg:grid-cols-[1fr_420px] items-start *:min-w-0">
        <div>
          <h2 id="loads" className="font-bold mb-2">
            How many at a time
          </h2>
          <Choice name="at-a-time" heads={['pull kept', 'worst lean', 'minutes']}>
            {loads.map((row) => (
              <Row
                key={row.name}
                group="at-a-time"
                label={row.name}
                does={
                  row.refused
                    ? `Not here: the bridge is held by the strings, and may fall below ${percent(SAFE_SHARE)}.`
                    : row.does
                }
                bad={row.refused !== null}
                checked={method.atATime === row.atATime}
                onChoose={() => change({ atATime: row.atATime })}
                cells={[
                  percent(row.load.leastShare),
                  percent(row.load.worstLean),
                  row.minutes === null ? '' : row.minutes.toFixed(0),
                ]}
              />
            ))}
          </Choice>
        </div>
        <div>
          <h3 className="muted text-sm mb-1">Pull that stays on the instrument on the way</h3>
          <LoadChart
            floating={build.bridge === 'floating'}
            lines={loads.map((row) => ({
              name: row.name,
              short: row.atATime === 'all' ? 'all' : `${row.atATime}`,
              steps: row.load.steps,
              lit: row.atATime === adapted.method.atATime,
              refused: row.refused !== null,
            }))}
          />
        </div>
      </section>

      <section aria-labelledby="slack" className="grid gap-x-6 gap-y-2 lg:grid-cols-[1fr_420px] items-start *:min-w-0">
        <div>
          <div className="flex flex-wrap items-center gap-3 mb-2">
            <h2 id="slack" className="font-bold">
              Slack and winds of
            </h2>
            <select
              className="select w-auto"
              aria-label="String"
              value={string.number}
              onChange={(event) => setNumber(Number(event.target.value))}
            >
              {build.positions.map((p) => (
                <option key={p.number} value={p.number}>
                  {stringLabel(build, p)}
                </option>
              ))}
            </select>
            <span className="muted text-sm">
              {fixedSlack
                ? 'decided by the parts here'
                : thin
                  ? 'the thinnest wound string: its own rule'
                  : plain
                    ? 'a plain string: the rule for plain strings'
                    : `chooses the rule ${method.slackPlain ? 'for wound strings' : 'for all'}`}
            </span>
          </div>
          <Choice name="slack" heads={['mm', 'turns', 'end holds']}>
            {slack.map((row) => (
              <Row
                key={row.id}
                group="slack"
                label={row.name}
                does={row.advice || `stack ${row.stackMm.toFixed(1)} of ${build.post.roomUnderHoleMm} mm`}
                bad={row.verdict !== 'good'}
                badge={VERDICTS[row.verdict]}
                checked={fixedSlack ? row.isHouse : sameRule(method[ruled], row.rule)}
                disabled={fixedSlack}
                onChoose={() => change({ [ruled]: row.rule })}
                cells={[row.slackMm.toFixed(0), row.turns.toFixed(1), `${row.endN.toFixed(1)} N`]}
              />
            ))}
          </Choice>
          {numbers.ruleGives && (
            <p className="mt-2 text-sm">
              On this {postWord(build)} the card says <b>{numbers.slackMm.toFixed(0)} mm</b> instead: the rule would
              give {numbers.ruleGives.turns.toFixed(1)} turns.
            </p>
          )}
        </div>
        <div className="grid grid-cols-2 gap-3 items-start">
          <PostDrawing
            kind={postWord(build)}
            turns={numbers.winds.turns}
            gaugeMm={string.gaugeMm}
            diameterMm={build.post.diameterMm}
            over={turnsOver(adapted.method, string.wound)}
            selfLock={adapted.method.winds === 'self-lock'}
            locking={isLocking(build)}
            slotted={build.tuner === 'slotted-post'}
            rotation={tightens(build.head, position.side, build.handedness)}
            stackMm={numbers.winds.stackMm}
            roomMm={build.post.roomUnderHoleMm}
            away={build.family === 'double-bass' ? crossing(build, position, numbers.winds.turns).turnsAway : 0}
          />
          <HeadDrawing
            build={build}
            order={order}
            lit={string.number}
            cutMm={
              adapted.method.trim.when === 'before-winding' && build.head !== 'pegbox' ? numbers.cut.pastPostMm : null
            }
          />
          <div className="col-span-2 grid place-items-center">
            <TailDrawing tailEnd={build.tailEnd} stringEnd={build.stringEnd} turns={ties} />
          </div>
        </div>
      </section>

      <div className="grid gap-6 lg:grid-cols-2 items-start *:min-w-0">
        <section aria-labelledby="winds">
          <h2 id="winds" className="font-bold mb-2">
            How the winds lie
          </h2>
          <Choice name="winds" heads={['off next time', 'minutes']}>
            {winds.map((row) => (
              <Row
                key={row.value}
                group="winds"
                label={row.name}
                does={row.does}
                checked={adapted.method.winds === row.value}
                disabled={winds.length === 1}
                onChoose={() => change({ winds: row.value })}
                badge={HOLDS[row.hold]}
                cells={[`${row.removalMinutes.toFixed(1)} min`, row.minutes.toFixed(0)]}
              />
            ))}
          </Choice>
        </section>
        <section aria-labelledby="other">
          <h2 id="other" className="font-bold mb-2">
            Order, hole, trimming, stretching
          </h2>
          <div className="card-paper px-4 py-3 grid gap-3 sm:grid-cols-2">
            <Pick label="Order" value={method.order} options={CHOICES.order} onPick={(order) => change({ order })} />
            {adapted.method.atATime !== 1 && (
              <Pick
                label="What is finished first"
                value={method.finish}
                options={CHOICES.finish}
                onPick={(finish) => change({ finish })}
              />
            )}
            {build.head !== 'pegbox' && build.tuner !== 'roller' && (
              <Pick label="Hole" value={method.hole} options={CHOICES.hole} onPick={(hole) => change({ hole })} />
            )}
            <Pick
              label="Trim"
              value={method.trim.when}
              options={CHOICES.trimWhen}
              onPick={(when) => change({ trim: { ...method.trim, when } })}
            />
            <Pick
              label="Leave at the end"
              value={method.trim.leaveMm}
              options={([0, 5, 10] as const).map((mm) => ({ value: mm, name: mm === 0 ? 'flush' : `${mm} mm` }))}
              onPick={(leaveMm) => change({ trim: { ...method.trim, leaveMm } })}
            />
            {comesLoose(build) && (
              <Pick
                label={build.tailEnd === 'wrap-around' ? 'The loose bridge' : 'The loose tailpiece'}
                value={method.hanging}
                options={CHOICES.hanging}
                onPick={(hanging) => change({ hanging })}
              />
            )}
            {isTied(build.tailEnd) && <TiePicks ties={method.ties} pick={(ties) => change({ ties })} />}
            <Pick
              label="Rounds of stretching"
              value={method.stretchRounds}
              options={[0, 1, 2, 3, 4].map((n) => ({
                value: n,
                name: n === 0 ? 'none, play and retune' : n === 1 ? 'a slight tug' : `${n}`,
              }))}
              onPick={(stretchRounds) => change({ stretchRounds })}
            />
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="checkbox"
                checked={method.slackPlain !== null}
                onChange={(event) => change({ slackPlain: event.target.checked ? method.slack : null })}
              />
              Plain strings have their own slack
            </label>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="checkbox"
                checked={method.slackThinWound !== null}
                onChange={(event) => change({ slackThinWound: event.target.checked ? method.slack : null })}
              />
              The thinnest wound string has its own slack
            </label>
            <Pick
              label="Winds of plain strings"
              value={method.windsPlain ?? 'same'}
              options={[
                { value: 'same', name: 'as the others' },
                { value: 'one-over', name: 'over once, then under' },
                { value: 'two-over', name: 'over twice, then under' },
              ]}
              onPick={(plain) => change({ windsPlain: plain === 'same' ? null : plain })}
            />
          </div>
        </section>
      </div>

      {procedure && (
        <StepList
          procedure={procedure}
          wording={house.wording}
          own={house.steps}
          reword={(id, words) => {
            const { [id]: _, ...rest } = house.wording;
            setHouse({ ...house, wording: words.title || words.detail ? { ...rest, [id]: words } : rest });
            quiet();
          }}
          setOwn={(steps: HouseStep[]) => {
            setHouse({ ...house, steps });
            quiet();
          }}
          phases={PHASES.filter((phase: Phase) => procedure.steps.some((s) => s.phase === phase)).map((phase) => ({
            phase,
            name: PHASE_NAMES[phase],
          }))}
        />
      )}

      {dirty && (
        <form
          className="sticky bottom-0 z-20 card-paper border-primary p-4 grid gap-2"
          aria-label="Keep the change"
          onSubmit={(event) => {
            event.preventDefault();
            void save();
          }}
        >
          <p>
            <b>
              Changed:{' '}
              {[
                ...differs,
                ...(JSON.stringify([house.wording, house.steps]) !==
                JSON.stringify([props.house.wording, props.house.steps])
                  ? ['words or own steps']
                  : []),
              ].join(', ')}
              .
            </b>{' '}
            <span className="muted">Kept in this browser until you save or drop it.</span>
          </p>
          {problems.map((line) => (
            <p key={line} className="text-error">
              {line}
            </p>
          ))}
          <Told says={says} />
          <div className="flex flex-wrap items-end gap-3">
            <label className="grid gap-1 grow min-w-60">
              <span>Why</span>
              <input
                className="input w-full"
                value={why}
                onChange={(event) => setWhy(event.target.value)}
                maxLength={300}
              />
            </label>
            <button type="submit" className="btn btn-primary" disabled={sending || problems.length > 0}>
              Save as version {version + 1}
            </button>
            {tag && differs.length > 0 && !props.openJob && (
              <button type="button" className="btn" onClick={() => void once()} disabled={sending}>
                Only this once, on {tag}
              </button>
            )}
            <button type="button" className="btn btn-ghost" onClick={() => setHouse(props.house)}>
              Drop
            </button>
          </div>
        </form>
      )}
    </div>
  );
}

/** How often tied strings go round themselves. */
function TiePicks({ ties, pick }: { ties: Method['ties']; pick: (ties: Method['ties']) => void }) {
  const counts = <N extends number>(of: readonly N[]) => of.map((n) => ({ value: n, name: `${n}` }));
  return (
    <>
      <Pick
        label="Turns of a tie, wound strings"
        value={ties.wound}
        options={counts([1, 2] as const)}
        onPick={(wound) => pick({ ...ties, wound })}
      />
      <Pick
        label="Turns of a tie, plain strings"
        value={ties.plain}
        options={counts([2, 3] as const)}
        onPick={(plain) => pick({ ...ties, plain })}
      />
      <Pick
        label="Turns of a tie, the thinnest"
        value={ties.thinnest}
        options={counts([2, 3, 4] as const)}
        onPick={(thinnest) => pick({ ...ties, thinnest })}
      />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox"
          checked={ties.safetyKnot}
          onChange={(event) => pick({ ...ties, safetyKnot: event.target.checked })}
        />
        A small knot at the end of the thinnest
      </label>
    </>
  );
}

const PART_MENUS = {
  head: HEADS,
  tuner: TUNERS,
  tailEnd: TAIL_ENDS,
  bridge: BRIDGES,
  stringEnd: STRING_ENDS,
  fingerboard: FINGERBOARDS,
} as const;

/** The method on another build of the family: only what can be is offered. */
function OtherBuild({ build, change }: { build: Build; change: (parts: Partial<Build>) => void }) {
  const parts = (Object.keys(PART_MENUS) as (keyof typeof PART_MENUS)[]).map((part) => ({
    part,
    values: PART_MENUS[part].filter((value) => value === build[part] || possible(build, { [part]: value })),
  }));
  return (
    <fieldset className="card-paper px-4 py-3 grid gap-3 grid-cols-2 md:grid-cols-3 xl:grid-cols-6">
      <legend className="sr-only">Shown for this build</legend>
      {parts.map(({ part, values }) => (
        <label key={part} className="grid gap-1">
          <span className="muted text-sm">{PART_LABELS[part]}</span>
          <select
            className="select w-full"
            value={build[part]}
            onChange={(event) => change(fitting(build, { [part]: event.target.value }))}
          >
            {values.map((value) => (
              <option key={value} value={value}>
                {PART_NAMES[value]}
              </option>
            ))}
          </select>
        </label>
      ))}
    </fieldset>
  );
}

const PART_LABELS = {
  head: 'Head',
  tuner: 'Tuners',
  tailEnd: 'Tail end',
  bridge: 'Bridge',
  stringEnd: 'String end',
  fingerboard: 'Board',
};

/** What has to follow from a chosen part: rollers from a slotted head, the string end from the tail end. */
function fitting(build: Build, parts: Partial<Build>): Partial<Build> {
  const { head, tuner, tailEnd, bridge, stringEnd, fingerboard } = { ...build, ...parts };
  const now = { head, tuner, tailEnd, bridge, stringEnd, fingerboard };
  const trials: Partial<Build>[] = [
    now,
    { ...now, ...follow(now, ['tuner']) },
    { ...now, ...follow(now, ['stringEnd']) },
    { ...now, ...follow(now, ['bridge']) },
    { ...now, ...follow(now, ['stringEnd', 'bridge']) },
    { ...now, ...follow(now, ['head']) },
  ];
  const works = trials.find((t) => impossibleBecause(defaultBuild(build.family, build.size, strip(t))).length === 0);
  return strip(works ?? now);
}
const strip = (parts: Partial<Build>): Partial<Build> =>
  Object.fromEntries(Object.entries(parts).filter(([, value]) => value !== undefined));
const follow = (parts: Partial<Build>, names: (keyof Build)[]): Partial<Build> =>
  Object.fromEntries(
    names.map((name) => [name, name === 'head' && parts.tuner !== 'roller' ? 'split-sides' : undefined]),
  );
const possible = (build: Build, parts: Partial<Build>): boolean =>
  impossibleBecause(defaultBuild(build.family, build.size, fitting(build, parts))).length === 0;

function Choice({ name, heads, children }: { name: string; heads: string[]; children: React.ReactNode }) {
  return (
    <div className="card-paper px-3 py-1 overflow-x-auto">
      <table className="w-full text-left" aria-label={name}>
        <thead className="sr-only sm:not-sr-only">
          <tr className="muted text-sm">
            <th className="font-normal py-1">
              <span className="sr-only">choice</span>
            </th>
            {heads.map((head) => (
              <th key={head} className="font-normal text-right px-2 whitespace-nowrap">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </div>
  );
}

function Row(p: {
  group: string;
  label: string;
  does: string;
  bad?: boolean;
  badge?: string;
  checked: boolean;
  disabled?: boolean;
  onChoose: () => void;
  cells: string[];
}) {
  return (
    <tr className="quiet-row align-top">
      <td className="py-1.5">
        <label className="flex gap-2 items-start">
          <input
            type="radio"
            className="radio radio-sm mt-1"
            name={p.group}
            checked={p.checked}
            disabled={p.disabled}
            onChange={p.onChoose}
          />
          <span>
            {p.label}
            {p.badge && <span className={`chip ml-2 ${p.bad ? 'chip-soon' : 'chip-ok'}`}>{p.badge}</span>}
            <span className={`block text-sm ${p.bad ? 'text-warning' : 'muted'}`}>{p.does}</span>
          </span>
        </label>
      </td>
      {p.cells.map((cell, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the columns of one fixed table
        <td key={i} className="text-right px-2 py-1.5 whitespace-nowrap">
          {cell}
        </td>
      ))}
    </tr>
  );
}

function Pick<V extends string | number>({
  label,
  value,
  options,
  onPick,
}: {
  label: string;
  value: V;
  options: readonly { value: V; name: string; does?: string }[];
  onPick: (value: V) => void;
}) {
  return (
    <label className="grid gap-1">
      <span className="muted text-sm">{label}</span>
      <select
        className="select w-full"
        value={value}
        onChange={(event) => {
          const picked = options.find((o) => String(o.value) === event.target.value);
          if (picked) onPick(picked.value);
        }}
      >
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.name}
          </option>
        ))}
      </select>
    </label>
  );
}
