import { count } from '../../../core/count';
import { FAMILY_NAMES } from '../../../core/instruments/build';
import { CHOICES } from '../../../core/procedures/choices';
import type { HouseStep } from '../../../core/procedures/houseMethod';
import { PHASE_NAMES, PHASES, type Phase } from '../../../core/procedures/types';
import { later } from '../../ui/later';
import { Opens } from '../../ui/Opens';
import { AtATime } from './AtATime';
import { HowWindsLie } from './HowWindsLie';
import { OtherChoices } from './OtherChoices';
import { SlackAndWinds } from './SlackAndWinds';
import { StepList } from './StepList';
import { type MethodEditorProps, useMethod } from './useMethod';

const OtherBuild = later(() => import('./OtherBuild').then((m) => m.OtherBuild));
const KeepChange = later(() => import('./KeepChange').then((m) => m.KeepChange));

/** How a house works a family: each choice beside what it does here, and the steps that come of it. */
export function MethodEditor(props: MethodEditorProps) {
  const { family, tag } = props;
  const of = useMethod(props);
  const { adapted, build, house, procedure, gaps, edit } = of;
  const atATime = CHOICES.atATime.find((c) => c.value === adapted.method.atATime)?.name ?? '';
  return (
    <div className="grid gap-6 *:min-w-0" data-ready={of.ready && of.worked} aria-busy={!of.worked}>
      <div>
        <h1 className="text-2xl font-bold">
          {FAMILY_NAMES[family]}: {atATime.toLowerCase()},{' '}
          {procedure
            ? `${count(procedure.steps.length, 'step')}, about ${count(Math.round(procedure.minutes), 'minute')}`
            : 'no steps yet'}
        </h1>
        <p className="muted max-w-prose">
          {tag ? `Figures for ${tag}` : 'Figures for the usual build'}
          {props.assumed ? ' and strings of a usual tension, as no set is chosen.' : ' and its strings.'}
        </p>
        {of.failed && (
          <p role="alert" className="text-error">
            The steps below do not show your change: part of this page did not load. Reload the page; your change is
            kept in this browser.
          </p>
        )}
        {adapted.because.length > 0 && (
          <ul className="mt-2 grid gap-1" aria-label="Adapted to this build">
            {adapted.because.map((line) => (
              <li key={line} className="chip chip-settling whitespace-normal w-fit">
                {line}
              </li>
            ))}
          </ul>
        )}
        {gaps.length > 0 && (
          <ul className="mt-2 text-error">
            {gaps.map((g) => (
              <li key={g.needs}>{g.needs}</li>
            ))}
          </ul>
        )}
      </div>

      {!tag && (
        <Opens says="Try it on another build">
          <OtherBuild build={build} change={of.setBuild} />
        </Opens>
      )}
      <AtATime of={of} />
      <SlackAndWinds of={of} />
      <div className="grid gap-6 lg:grid-cols-2 items-start *:min-w-0">
        <HowWindsLie of={of} />
        <OtherChoices of={of} />
      </div>

      {procedure && (
        <StepList
          procedure={procedure}
          wording={house.wording}
          own={house.steps}
          reword={(id, words) => {
            const { [id]: _, ...rest } = house.wording;
            edit({ wording: words.title || words.detail ? { ...rest, [id]: words } : rest });
          }}
          setOwn={(steps: HouseStep[]) => edit({ steps })}
          phases={PHASES.filter((phase: Phase) => procedure.steps.some((s) => s.phase === phase)).map((phase) => ({
            phase,
            name: PHASE_NAMES[phase],
          }))}
        />
      )}

      {of.dirty && <KeepChange of={of} props={props} />}
    </div>
  );
}
