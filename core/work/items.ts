import { addDays, earlier, type LocalDate } from '../dates';
import type { Build } from '../instruments/build';
import type { PlanKind } from '../planning/kinds';
import type { JobKind } from '../procedures/types';
import { settlingDays, VISIT_MINUTES, type VisitKind, visitsAfterChange } from '../settling/readyBy';
import type { CoreMaterial } from '../strings/materials';
import type { Due } from '../wear/due';
import { benchRequest, type DueWork } from './due';
import { sayWall } from './words';

/** What is known of an instrument, as far as its work hangs on it. */
export interface OnRecord {
  bridge: Build['bridge'];
  player: 'light' | 'normal' | 'hard' | (string & {});
  /** Cores of the strings that go on; of a mixed set all. */
  cores: readonly CoreMaterial[];
  /** When it is due and what for; null where that lies beyond what is looked at. */
  due: { by: Due['by']; on: LocalDate; work: DueWork } | null;
  /** What was asked for by hand. */
  requests: readonly { kind: 'inspection' | 'service' | 'refit'; on: LocalDate; why: string }[];
  /** Open visits after changes. */
  visits: readonly { kind: VisitKind; day: number; on: LocalDate }[];
  /** The next concert it is for, and its lessons. */
  concert: { name: string; on: LocalDate } | null;
  lessons: readonly LocalDate[];
}

/** A job that somebody has to do, before it is put anywhere. */
export interface WorkItem {
  kind: PlanKind;
  /** What the bench is asked for; null: a visit, which is ticked off. */
  request: { kind?: JobKind; numbers?: number[] } | null;
  /** Why it is due: the reason of its due date, or what was written where it was asked for. */
  because: Due['by'] | 'visit' | { asked: string };
  dueOn: LocalDate;
  /** Day of the visit after its change; null for what is no visit. */
  visitDay: number | null;
  /** Minutes of the card; null where its procedure gives none. */
  minutes: number | null;
  /** Whether it takes new strings. */
  usesPack: boolean;
  /** Days after it on which it brings visits. */
  visits: number[];
  /** The last day on which it is of use. */
  wall: { on: LocalDate; why: string } | null;
  /** How much a day's delay weighs. */
  weight: number;
}

/** Minutes of a first look. Common practice, no source. */
export const LOOK_MINUTES = 10;

/** The days that are looked at, the first of them today. */
export interface Looked {
  first: LocalDate;
  until: LocalDate;
}

/**
 * Everything to be done on an instrument: the change that is due or the look before it, what was asked for by hand, and
 * the visits after the change before. Each kind once: a service that was asked for and is due anyway is one.
 *
 * @param minutesOf minutes of the card of a change; null where the composer gives none
 */
export function workItems(
  r: OnRecord,
  looked: Looked,
  minutesOf: (request: { kind?: JobKind; numbers?: number[] }) => number | null,
): WorkItem[] {
  const items: WorkItem[] = [];
  const has = (kind: PlanKind) => items.some((i) => i.kind === kind);
  const change = (
    kind: 'change' | 'service' | 'refit',
    request: NonNullable<WorkItem['request']>,
    more: Pick<WorkItem, 'because' | 'dueOn' | 'weight'>,
  ): WorkItem => ({
    kind,
    request,
    visitDay: null,
    minutes: minutesOf(request),
    usesPack: kind !== 'refit',
    visits: [...new Set(visitsAfterChange(r.bridge).map((v) => v.day))],
    wall: wallOf(r, more.because === 'broken', looked),
    ...more,
  });
  const look = (because: WorkItem['because'], dueOn: LocalDate): WorkItem => ({
    kind: 'inspection',
    request: { kind: 'inspection' },
    because,
    dueOn,
    visitDay: null,
    minutes: LOOK_MINUTES,
    usesPack: false,
    visits: [],
    wall: null,
    weight: 1,
  });

  if (r.due) {
    const { by, on, work } = r.due;
    if (work.kind === 'inspection') items.push(look(by, on));
    else {
      const asked = r.requests.find((q) => q.kind === 'service');
      const service = work.kind === 'service' || (asked !== undefined && work.whole);
      const request: NonNullable<WorkItem['request']> = service ? { kind: 'yearly-service' } : benchRequest(work);
      items.push(
        change(service ? 'service' : 'change', request, {
          because: by,
          dueOn: service && asked ? earlier(asked.on, on) : on,
          weight:
            (by === 'broken' ? 3 : by === 'concert' || on < looked.first ? 2 : 1) + (r.player === 'hard' ? 0.5 : 0),
        }),
      );
    }
  }
  for (const { kind, on, why } of r.requests) {
    if (has(kind)) continue;
    const because = { asked: why };
    if (kind === 'inspection') items.push(look(because, on));
    else
      items.push(
        change(
          kind,
          { kind: kind === 'service' ? 'yearly-service' : 'refit' },
          {
            because,
            dueOn: on,
            weight: 1,
          },
        ),
      );
  }
  for (const { kind, day, on } of r.visits) {
    if (has(kind)) continue;
    items.push({
      kind,
      request: null,
      because: 'visit',
      dueOn: on,
      visitDay: day,
      minutes: VISIT_MINUTES[kind],
      usesPack: false,
      visits: [],
      wall: null,
      // A bridge that leans does harm; a string gone flat does not.
      weight: kind === 'bridge-check' ? 1 : 0.5,
    });
  }
  return items;
}

/**
 * The last day for a change: before a concert, or, where an instrument cannot be played, before the next lesson for which
 * new strings still have time to settle.
 */
function wallOf(r: OnRecord, broken: boolean, looked: Looked): WorkItem['wall'] {
  const settle = settlingDays(r.cores);
  const events = [
    ...(r.concert ? [{ on: r.concert.on, concert: r.concert.name }] : []),
    ...(broken ? r.lessons.map((on) => ({ on, concert: null })) : []),
  ];
  const walls = events
    .map((e) => ({ on: addDays(e.on, -settle), why: sayWall(e, settle) }))
    .filter((w) => w.on >= looked.first && w.on <= looked.until);
  return walls.sort((a, b) => (a.on < b.on ? -1 : 1))[0] ?? null;
}
