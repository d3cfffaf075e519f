import { count } from '../../../core/count';
import { tagPath } from '../../../core/instruments/tag';
import { LEAD_NAMES, LEADS } from '../../../core/procedures/led';
import { JOB_KIND_NAMES } from '../../../core/procedures/types';
import type { Saving } from './device';
import { Elapsed } from './Elapsed';
import { Phases } from './Phases';
import type { BenchInHand, BenchProps } from './useBench';

/** What is on the bench, how one is led through it, and what is kept where. */
export function BenchBar({ of, props }: { of: BenchInHand; props: BenchProps }) {
  const { job } = props;
  const { lead, screens, cursor, saving, device, started, kit, index, screen, choose, off } = of;
  return (
    <header className="flex flex-wrap items-baseline gap-x-5 gap-y-1 px-7 py-3 border-b border-base-300">
      <a
        href={`/instruments/${tagPath(job.tag)}`}
        className="tag font-bold text-2xl"
        title="Leave the bench; your place is kept"
      >
        {job.tag}
      </a>
      <span>{props.name}</span>
      <span className="muted text-lg truncate max-w-[34rem]">
        {props.parts}
        {job.kind !== 'full-set' && `, ${JOB_KIND_NAMES[job.kind].toLowerCase()}`}
        {job.departure && `, method changed: ${job.departure.reason}`}
      </span>
      {screen && cursor !== 'finish' && !kit && device && (
        <div className="ml-auto flex flex-wrap items-center gap-x-3 text-base">
          <fieldset className="flex text-base" aria-label="How steps are shown">
            {LEADS.map((way) => (
              <button
                key={way}
                type="button"
                className={`btn btn-ghost min-h-11 px-2 text-base ${way === lead ? 'font-bold' : 'font-normal'}`}
                aria-pressed={way === lead}
                onClick={() => void choose(way)}
              >
                {LEAD_NAMES[way]}
              </button>
            ))}
          </fieldset>
        </div>
      )}
      {screen && lead !== 'string' && <Phases screens={screens} index={index} />}
      <span className="ml-auto text-lg muted flex flex-wrap items-baseline gap-x-4">
        {screen && cursor !== 'finish' && !kit && device && (
          <span
            className={`text-base ${saving.silent || !device.keep.lasting ? 'text-warning' : 'muted'}`}
            role="status"
          >
            {sayKept(saving, device.keep.lasting)}
          </span>
        )}
        {off > 0 && <b className="text-warning">{count(off, 'string')} off </b>}
        <Elapsed since={started} />
      </span>
    </header>
  );
}

/** What is kept where, in few words. */
function sayKept({ waiting, silent }: Saving, lasting: boolean): string {
  if (waiting === 0) return 'all saved';
  if (!lasting) return `${waiting} not saved: keep this page open`;
  return silent ? `${waiting} kept here, no connection` : `sending ${waiting}`;
}
