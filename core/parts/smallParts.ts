import type { Build } from '../instruments/build';

/** What is put in anew with strings, or saved from old ones, and lies on the shelf. Common practice, no source. */
export const SMALL_PARTS = ['bridge-pin', 'ball-end-spacer'] as const;
export type SmallPart = (typeof SMALL_PARTS)[number];

export const SMALL_PART_NAMES: Record<SmallPart, { one: string; many: string }> = {
  'bridge-pin': { one: 'bridge pin', many: 'bridge pins' },
  'ball-end-spacer': { one: 'ball-end spacer', many: 'ball-end spacers' },
};

/** The small parts an instrument takes, and whether old strings give some back: a ball end makes a spacer. */
export function smallPartsOf(build: Pick<Build, 'extras'>): { part: SmallPart; saved: boolean }[] {
  return [
    ...(build.extras.includes('pins') ? [{ part: 'bridge-pin' as const, saved: false }] : []),
    ...(build.extras.includes('ball-end-spacers') ? [{ part: 'ball-end-spacer' as const, saved: true }] : []),
  ];
}

/** "2 bridge pins put in anew, 1 ball-end spacer saved"; empty where none was. */
export function saySmallParts(used: readonly { part: SmallPart; used: number; saved: number }[]): string {
  return used
    .flatMap(({ part, used: n, saved }) => {
      const say = (count: number, what: string) => {
        const { one, many } = SMALL_PART_NAMES[part];
        return count > 0 ? [`${count} ${count === 1 ? one : many} ${what}`] : [];
      };
      return [...say(n, 'newly fitted'), ...say(saved, 'saved')];
    })
    .join(', ');
}
