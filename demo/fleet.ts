import { addDays, daysBetween, type LocalDate, weekdayOf } from '../core/dates';
import { type Build, type Family, SIZES } from '../core/instruments/build';
import { HOUSE_CARE } from '../core/wear/care';
import { dueOf, type UsePeriod } from '../core/wear/due';
import type { Chance } from './random';

/** The places of the Skerrow Sound Music Service. The first is the workshop with the shelf. */
export const PLACES = [
  'Harbour Store',
  'Ness School',
  'Tarn Hall',
  'Old Cannery',
  'Lantern Point',
  'Hallow Bay',
] as const;
export type PlaceName = (typeof PLACES)[number];

const BORROWERS = [
  'J. Kest',
  'A. Fell',
  'R. Ost',
  'M. Lunn',
  'P. Sorrel',
  'E. Vane',
  'T. Brack',
  'S. Holm',
  'L. Orrin',
  'K. Dunnet',
  'F. Mair',
  'C. Tolsk',
];

interface Stock {
  family: Family;
  size: string;
  count: number;
  /** Tags run on from here. */
  tag: number;
}

/** The fleet by family and size: 261 instruments. */
const FLEET: Stock[] = [
  { family: 'violin', size: '4/4', count: 12, tag: 101 },
  { family: 'violin', size: '3/4', count: 10, tag: 115 },
  { family: 'violin', size: '1/2', count: 10, tag: 126 },
  { family: 'violin', size: '1/4', count: 6, tag: 137 },
  { family: 'violin', size: '1/8', count: 2, tag: 144 },
  { family: 'viola', size: '16 in', count: 4, tag: 147 },
  { family: 'viola', size: '15 in', count: 4, tag: 152 },
  { family: 'viola', size: '14 in', count: 2, tag: 157 },
  { family: 'viola', size: '13 in', count: 1, tag: 160 },
  { family: 'cello', size: '4/4', count: 6, tag: 171 },
  { family: 'cello', size: '3/4', count: 6, tag: 178 },
  { family: 'cello', size: '1/2', count: 4, tag: 185 },
  { family: 'cello', size: '1/4', count: 2, tag: 190 },
  { family: 'ukulele', size: 'soprano', count: 18, tag: 201 },
  { family: 'ukulele', size: 'concert', count: 20, tag: 221 },
  { family: 'ukulele', size: 'tenor', count: 8, tag: 243 },
  { family: 'ukulele', size: 'baritone', count: 4, tag: 253 },
  { family: 'steel-acoustic', size: '4/4', count: 24, tag: 301 },
  { family: 'steel-acoustic', size: '3/4', count: 8, tag: 328 },
  { family: 'steel-acoustic', size: '1/2', count: 4, tag: 338 },
  { family: 'twelve-string', size: '4/4', count: 4, tag: 345 },
  { family: 'classical', size: '4/4', count: 22, tag: 401 },
  { family: 'classical', size: '7/8', count: 4, tag: 425 },
  { family: 'classical', size: '3/4', count: 16, tag: 431 },
  { family: 'classical', size: '1/2', count: 12, tag: 449 },
  { family: 'classical', size: '1/4', count: 4, tag: 463 },
  { family: 'banjo', size: '4/4', count: 6, tag: 501 },
  { family: 'double-bass', size: '3/4', count: 4, tag: 601 },
  { family: 'double-bass', size: '1/2', count: 3, tag: 606 },
  { family: 'double-bass', size: '1/4', count: 1, tag: 610 },
  { family: 'electric', size: '4/4', count: 10, tag: 701 },
  { family: 'electric', size: '3/4', count: 2, tag: 713 },
  { family: 'bass-guitar', size: '4/4', count: 8, tag: 721 },
  { family: 'bass-guitar', size: '3/4', count: 2, tag: 730 },
  { family: 'mandolin', size: '4/4', count: 8, tag: 801 },
];

const HOURS: Record<Family, [number, number]> = {
  'steel-acoustic': [1.5, 3.5],
  'twelve-string': [0.8, 1.6],
  classical: [1.5, 3.5],
  electric: [1.2, 3],
  'bass-guitar': [1.5, 4],
  ukulele: [1, 3],
  banjo: [0.8, 2],
  mandolin: [0.8, 2.2],
  violin: [2, 5],
  viola: [2, 4.5],
  cello: [2, 5],
  'double-bass': [2, 4],
};

const NEW_TO_FLEET = new Set(['SK-0240', 'SK-0418', 'SK-0707']);

export interface PlannedChange {
  on: LocalDate;
  /** A string broke while it went on. */
  broke: boolean;
}

export interface DemoInstrument {
  tag: string;
  family: Family;
  size: string;
  place: PlaceName;
  holder: string;
  build: Partial<Build>;
  note: string;
  use: { fromDay: LocalDate; toDay: LocalDate | null; hoursPerWeek: number; source: string }[];
  /** Oldest first. */
  changes: PlannedChange[];
  inConcert: boolean;
  /** Trebles of a lighter set on this one. */
  hybrid: boolean;
}

/** Parts that differ from the family's usual ones, so that the fleet is as mixed as real ones are. */
function partsFor(family: Family, size: string, index: number): Partial<Build> {
  if (family === 'steel-acoustic' && size === '4/4' && index === 5) return LEFT_HANDED;
  if (family === 'classical' && size === '4/4' && index % 5 === 4) return { tailEnd: 'tie-block-12' };
  if (family === 'classical' && index === 7) return LEFT_HANDED;
  if (family === 'ukulele' && size === 'tenor')
    return { tuner: 'plain-post', post: { diameterMm: 6, roomUnderHoleMm: 8, spacingMm: 38 } };
  if (family === 'ukulele' && size === 'baritone')
    return { tuner: 'plain-post', post: { diameterMm: 6, roomUnderHoleMm: 8, spacingMm: 40 } };
  if (family === 'ukulele' && size === 'soprano' && index % 6 === 5) return { tailEnd: 'uke-slot', stringEnd: 'knot' };
  if (family === 'electric') {
    const kinds: Partial<Build>[] = [
      {},
      {
        head: 'split-sides',
        tuner: 'plain-post',
        tailEnd: 'stop-tailpiece',
        fingerboard: 'bare-dark',
        extras: [],
      },
      {
        head: 'split-sides',
        tuner: 'locking-thumbwheel',
        tailEnd: 'wrap-around',
        fingerboard: 'bare-dark',
        extras: ['bridge-screws'],
      },
      { tailEnd: 'rear-block' },
    ];
    return kinds[index % kinds.length] as Partial<Build>;
  }
  if (family === 'violin' && size === '4/4' && index % 2 === 0) return { tailEnd: 'tailpiece-plain', extras: [] };
  return {};
}

const LEFT_HANDED: Partial<Build> = { handedness: 'left' };

const PLACE_WEIGHTS: [PlaceName, number][] = [
  ['Harbour Store', 0.14],
  ['Ness School', 0.24],
  ['Tarn Hall', 0.19],
  ['Old Cannery', 0.16],
  ['Lantern Point', 0.15],
  ['Hallow Bay', 0.12],
];

function placeOf(chance: Chance): PlaceName {
  let left = chance.next();
  for (const [place, weight] of PLACE_WEIGHTS) {
    left -= weight;
    if (left <= 0) return place;
  }
  return 'Ness School';
}

function holderOf(chance: Chance, family: Family, place: PlaceName): string {
  if (place === 'Harbour Store' && chance.true(0.5)) return 'workshop';
  if (family === 'electric' || family === 'bass-guitar') return 'band room';
  if (chance.true(0.35)) return `loan, ${chance.pick(BORROWERS)}`;
  return family === 'double-bass' || (family === 'cello' && chance.true(0.4)) ? 'orchestra' : 'class set';
}

/** Months of history the scenario looks back on. */
const HISTORY_DAYS = 425;

/**
 * The instruments with their past: parts, place, use, and on which days their strings were changed, so that about a
 * tenth falls due in the coming weeks and a few are late.
 * @param historyDays how far back the records go
 * @param copies how many times over the fleet is made, for large databases; tags of further copies get a letter
 */
export function* demoFleet(
  chance: Chance,
  today: LocalDate,
  copies = 1,
  historyDays = HISTORY_DAYS,
): Generator<DemoInstrument> {
  const start = addDays(today, -historyDays);
  for (let copy = 0; copy < copies; copy++) {
    const prefix =
      copy === 0 ? 'SK' : `S${String.fromCharCode(65 + Math.floor(copy / 26))}${String.fromCharCode(65 + (copy % 26))}`;
    for (const stock of FLEET) {
      if (!SIZES[stock.family].includes(stock.size)) throw new RangeError(`${stock.family} has no size ${stock.size}`);
      for (let index = 0; index < stock.count; index++) {
        const tag = `${prefix}-${String(stock.tag + index).padStart(4, '0')}`;
        yield demoInstrument(chance, stock, index, tag, start, today);
      }
    }
  }
}

function demoInstrument(
  chance: Chance,
  stock: Stock,
  index: number,
  tag: string,
  start: LocalDate,
  today: LocalDate,
): DemoInstrument {
  const { family, size } = stock;
  const place = placeOf(chance);
  const [low, high] = HOURS[family];
  const hours = Math.round(chance.between(low, high) * 4) / 4;
  const before = Math.round(hours * chance.between(0.6, 1.2) * 4) / 4;
  const switched = addDays(start, chance.whole(90, 330));
  const holder = holderOf(chance, family, place);
  const source = holder.startsWith('loan') ? 'loan' : 'timetable';
  const use = [
    { fromDay: start, toDay: switched, hoursPerWeek: before, source: 'timetable' },
    { fromDay: switched, toDay: null, hoursPerWeek: hours, source },
  ];
  return {
    tag,
    family,
    size,
    place,
    holder,
    build: partsFor(family, size, index),
    note: '',
    use,
    changes: NEW_TO_FLEET.has(tag) ? [] : changesFor(chance, family, use, start, today),
    inConcert: ['violin', 'viola', 'cello', 'double-bass'].includes(family) ? chance.true(0.55) : chance.true(0.1),
    hybrid: tag === 'SK-0701',
  };
}

/** The school day on which strings would have gone on to fall due about `dueOn`. */
export function fittedForDue(family: Family, use: readonly UsePeriod[], dueOn: LocalDate): LocalDate {
  let day = dueOn;
  while (daysBetween(day, dueOn) < lifeDays(family, use, day)) day = addDays(day, -1);
  return weekday(day);
}

/** Days that strings put on at `from` last by the house rule. */
function lifeDays(family: Family, use: readonly UsePeriod[], from: LocalDate): number {
  const due = dueOf({
    strings: [{ number: 1, fittedOn: from, state: 'on' }],
    rule: HOUSE_CARE[family],
    use,
    reports: [],
    concerts: [],
    settlingDays: 1,
    knownSince: from,
  });
  return daysBetween(from, due.on);
}

function changesFor(
  chance: Chance,
  family: Family,
  use: UsePeriod[],
  start: LocalDate,
  today: LocalDate,
): PlannedChange[] {
  const late = chance.true(0.03);
  const typical = lifeDays(family, use, addDays(today, -200));
  const used = late ? chance.between(1.0, 1.05) : chance.between(0.06, 0.97);
  const changes: PlannedChange[] = [];
  let day = addDays(today, -Math.max(2, Math.round(typical * used)));
  while (day > start) {
    changes.push({ on: weekday(day), broke: chance.true(0.03) });
    day = addDays(day, -Math.max(20, Math.round(typical * chance.between(0.85, 1.15))));
  }
  // An instrument changed before the records begin still has a first entry: the day it was taken into the book.
  if (changes.length === 0) changes.push({ on: addDays(start, chance.whole(1, 20)), broke: false });
  return changes.reverse();
}

/** Friday for a Saturday or Sunday: work is done on school days. */
export function weekday(day: LocalDate): LocalDate {
  return addDays(day, Math.min(0, 5 - weekdayOf(day)));
}
