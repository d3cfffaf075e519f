import { expect, it } from 'vitest';
import { findableText, findWords } from './findable';

it('is found by part of a word, accents, case and noughts apart', () => {
  const text = findableText({ tag: 'SK-0417', family: 'ukulele', size: 'concert', rest: ['Hàllow Bay', 'Jörg Łund'] });
  for (const query of ['uke', 'sk4', 'SK0417', 'sk-0417', 'hallow', 'jorg', 'UKULELE con', 'bay uke'])
    expect(
      findWords(query).every((w) => text.includes(w)),
      query,
    ).toBe(true);
  for (const query of ['sk5', 'violin', 'uke tenor'])
    expect(
      findWords(query).every((w) => text.includes(w)),
      query,
    ).toBe(false);
});
