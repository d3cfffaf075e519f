import { useMemo, useState } from 'react';
import { halves, sayWinds } from '../../../core/count';
import type { Build } from '../../../core/instruments/build';
import { isLocking } from '../../../core/parts/tuners';
import { workingOrder } from '../../../core/procedures/method';
import { markThinnestWound, stringNumbers } from '../../../core/procedures/numbers';
import { compareSlack, decidedByParts } from '../../../core/procedures/slackSchools';
import type { StringToFit } from '../../../core/procedures/types';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord, stringLabel } from '../../../core/procedures/words';
import { crossing } from '../../../core/winding/bass';
import { tightens } from '../../../core/winding/post';
import type { SlackRule } from '../../../core/winding/slack';
import { HeadDrawing } from '../../components/drawings/HeadDrawing';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TailDrawing } from '../../components/drawings/TailDrawing';
import { Choice, Row } from './Choice';
import type { MethodInHand } from './useMethod';

const VERDICTS = { good: 'good', 'too-few': 'too few', 'too-many': 'too many', 'no-room': 'no room' };
const sameRule = (a: SlackRule | null, b: SlackRule) => JSON.stringify(a) === JSON.stringify(b);

/** The slack of one string by each school, drawn on its post. */
export function SlackAndWinds({ of }: { of: MethodInHand }) {
  const { build, method, strings, a4Hz, adapted, procedure, change } = of;
  const [number, setNumber] = useState(build.positions[0]?.number ?? 1);
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
  const order = workingOrder(build, build.positions, adapted.method.order).map((p) => p.number);
  return (
    <section aria-labelledby="slack" className="grid gap-x-6 gap-y-2 lg:grid-cols-[1fr_420px] items-start *:min-w-0">
      <div>
        <div className="flex flex-wrap items-center gap-3 mb-2">
          <h2 id="slack" className="font-bold">
            Slack and winds for
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
              ? 'fixed by the hardware'
              : thin
                ? 'thinnest wound string: its own rule'
                : plain
                  ? 'plain string: the rule for plain strings'
                  : `sets the slack ${method.slackPlain ? 'for wound strings' : 'for all'}`}
          </span>
        </div>
        <Choice name="slack" heads={['mm', 'winds', 'tension at string end']}>
          {slack.map((row) => (
            <Row
              key={row.id}
              group="slack"
              label={row.name}
              does={
                row.advice ||
                `winds fill ${Math.round((100 * row.stackMm) / build.post.roomUnderHoleMm)} % of the room below the hole`
              }
              bad={row.verdict !== 'good'}
              badge={VERDICTS[row.verdict]}
              checked={fixedSlack ? row.isHouse : sameRule(method[ruled], row.rule)}
              disabled={fixedSlack}
              onChoose={() => change({ [ruled]: row.rule })}
              cells={[row.slackMm.toFixed(0), halves(row.turns), `${row.endN.toFixed(1)} N`]}
            />
          ))}
        </Choice>
        {numbers.ruleGives && (
          <p className="mt-2 text-sm">
            On this {postWord(build)} use <b>{numbers.slackMm.toFixed(0)} mm</b> instead: the rule would give{' '}
            {sayWinds(numbers.ruleGives.turns)}.
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
  );
}
