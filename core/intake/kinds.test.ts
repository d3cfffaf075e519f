import { expect, it } from 'vitest';
import { guessKind, sayKind } from './kinds';

// What lists of schools and hire fleets say. Common practice, no source.
const SURE: [string, string][] = [
  ['3/4 Vc', 'Cello, 3/4'],
  ['Cello half size', 'Cello, 1/2'],
  ['Violoncello 4/4', 'Cello'],
  ['bar. uke', 'Ukulele, baritone'],
  ['Tenor Ukulele', 'Ukulele, tenor'],
  ['E-Gitarre', 'Electric guitar'],
  ['e-git', 'Electric guitar'],
  ['electric bass guitar', 'Bass guitar'],
  ['E-Bass', 'Bass guitar'],
  ['Kontrabass 1/2', 'Double bass, 1/2'],
  ['double bass', 'Double bass, 3/4'],
  ['viola 15"', 'Viola, 15 in'],
  ['Viola 38 cm', 'Viola, 15 in'],
  ['Bratsche 14 in', 'Viola, 14 in'],
  ['12-string guitar', '12-string'],
  ['12-saitige Gitarre', '12-string'],
  ['left-handed acoustic guitar', 'Steel-string acoustic, left-handed'],
  ['Western', 'Steel-string acoustic'],
  ['nylon string guitar 1/2', 'Classical guitar, 1/2'],
  ['Geige 1/4', 'Violin, 1/4'],
  ['fiddle', 'Violin'],
  ['VLN 3/4', 'Violin, 3/4'],
  ['5-string banjo', 'Banjo, 5-string'],
  ['Mandoline', 'Mandolin'],
  ['clasical guitar', 'Classical guitar'],
];

it('knows what kind is meant by the words of others', () => {
  for (const [text, is] of SURE) {
    const guess = guessKind(text);
    expect(guess.best && sayKind(guess.best), text).toBe(is);
    expect(guess.confidence, text).toBe('sure');
  }
});

it('asks where words may mean two things, and where a size is not said or does not exist', () => {
  for (const text of ['Bass', 'guitar', 'Gitarre 3/4', 'trumpet', '', 'instrument'])
    expect(guessKind(text).confidence, text).toBe('unsure');
  for (const text of ['uke', 'viola', 'Geige 1/16', 'Konzertgit. 7/8'])
    expect(guessKind(text).confidence, text).toBe('likely');
  expect(guessKind('Bass').others.map((o) => o.family)).toContain('double-bass');
  expect(guessKind('Geige 1/16').best).toMatchObject({ family: 'violin', size: '1/8' });
  expect(guessKind('trumpet').best).toBeNull();
});
