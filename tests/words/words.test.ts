import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { type Text, textsOf } from './texts';

const tracked = (...paths: string[]) =>
  execFileSync('git', ['ls-files', ...paths], { encoding: 'utf8' })
    .split('\n')
    .filter((file) => file !== '');
const sources = tracked('src', 'core', 'server', 'contract').filter(
  (file) => /\.(ts|tsx|astro)$/.test(file) && !/\.test\.|\.d\.ts$|\/migrations\//.test(file),
);
const texts = sources.flatMap(textsOf);
const where = (found: readonly Text[]) => found.map((t) => `${t.file}:${t.line} ${t.says.slice(0, 120)}`);

/** Words nobody in the trade says, each with what is said. */
const NOT_SAID: [RegExp, string][] = [
  [/\b(taken?|took) back\b/i, 'undo, undone'],
  [/\bput(ting)? away\b/i, 'close unchanged, cancel, dismiss'],
  [/\bby labels\b/i, 'from labels'],
  [/counter-?clockwise/i, 'anticlockwise'],
  [/\bstanding string\b|\bown end\b/i, 'the string; the string end'],
  [/\bhouse (set|method|string|rule|interval)s?\b/i, 'usual set, your method'],
  [/\bof 100 futures\b|\bfutures\b/i, 'a chance, in %'],
  [/\bscrap(ped|s)?\b/i, 'write off'],
  [/\bspoken for\b|\bas booked\b|\bin the book\b/i, 'reserved; the stock record'],
  [/\bsomebody qualified\b|\bspecialist\b/i, 'a qualified repairer'],
  [/\btwelfth fret\b|\bfifth fret\b/i, '12th fret'],
  [/\bsound hole\b/i, 'soundhole, f-hole'],
  [/\b(not|nothing|nobody) any ?more\b/i, 'no longer, nothing left'],
  [/\bproper look\b|\ba first look\b|\bin mid-job\b/i, 'inspection; full check'],
  [/\bwho did what\b/i, 'activity log'],
  [/\btaken? over\b/i, 'import, imported'],
  [/\bwill not fit\b/i, 'no time today'],
  [/\bas the house does it\b|\bstring that plays on\b/i, 'your usual method'],
  [/\b(weighs|heat|pain) more\b/i, 'matters more'],
];

it.each(NOT_SAID)('%s is not said', (pattern) => {
  expect(where(texts.filter((t) => pattern.test(t.says.replace(/\$\{\d+\}/g, 'x'))))).toEqual([]);
});

it('what people read of the project says it neither', () => {
  const pages = tracked('README.md', 'docs/guide', 'docs/operations', 'docs/accessibility.md', 'SECURITY.md');
  const found = pages.flatMap((file) => {
    const prose = readFileSync(file, 'utf8').replace(/```[\s\S]*?```|`[^`]*`/g, '');
    return NOT_SAID.flatMap(([pattern, better]) => (pattern.test(prose) ? [`${file}: ${pattern} (${better})`] : []));
  });
  expect(found).toEqual([]);
});

it('sentences have no two spaces, no two full stops and no day as a machine writes it', () => {
  const wrong = texts.filter(({ says }) => {
    const plain = says.replace(/such as \S+|https?:\S+/g, 'x').replace(/\.(?=\S)/g, '·');
    return /\S {2,}\S/.test(plain) || /[^.]\.\.(?!\.)/.test(plain) || /\b20\d\d-\d\d-\d\d\b/.test(plain);
  });
  expect(where(wrong)).toEqual([]);
});

/** Words that follow a number, which may be one. */
const COUNTED =
  /\$\{(\d+)\} (?:more |older |other )?(days|weeks|hours|minutes|strings|instruments|places|people|rounds|rows|lines|steps|tasks|jobs|sets|offcuts|winds|turns|products|entries|devices|halves|photos|sessions|spacings|times)\b/;
/** Numbers that cannot be one. */
const NEVER_ONE = new Set([
  'MOST_TOGETHER',
  'WEEKS_AHEAD',
  'REDONE_DAYS',
  'MOST_PER_JOB',
  // Said in other words where there is one.
  'n',
  'days',
  'worst.numbers.length',
  'doubtful.length',
  'rule.times',
  'loss.left',
  'sessions.length',
  'a.sessions',
]);

it('a number that may be one is said with its word by the helper', () => {
  const wrong = texts.filter(({ says, filledBy }) => {
    const found = COUNTED.exec(says);
    if (!found) return false;
    const by = filledBy[Number(found[1])] ?? '';
    // "one string : 3 strings", "all six strings", "of the 2 times needed".
    return (
      !NEVER_ONE.has(by) && !/countWord|toLocaleString|STEP_UP|toFixed\(1\)/.test(by) && !/of (the )?\$\{/.test(says)
    );
  });
  expect(where(wrong)).toEqual([]);
});

it('winds and turns of a hand are counted in halves', () => {
  const wrong = texts.filter(({ says, filledBy }) =>
    [...says.matchAll(/\$\{(\d+)\} (?:winds?|turns?)\b/g)].some(([, n]) => /toFixed/.test(filledBy[Number(n)] ?? '')),
  );
  expect(where(wrong)).toEqual([]);
});
