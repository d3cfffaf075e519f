/** A quick inspection: one look, one pluck, half a minute. */
export const INSPECTION = {
  sound: { question: 'How does it sound?', answers: ['bright', 'a little dull', 'dull or muddy'] },
  look: { question: 'How do the strings look?', answers: ['clean', 'dark', 'rusty or pitted'] },
  feel: { question: 'How do they feel?', answers: ['smooth', 'grimy', 'rough'] },
  tune: { question: 'Does it stay in tune?', answers: ['yes', 'needs tuning each lesson', 'goes out during a lesson'] },
  winding: { question: 'Are the windings tight?', answers: ['yes', 'worn flat', 'one is loose'] },
} as const;
export type InspectionItem = keyof typeof INSPECTION;

/** Each item 0 (good), 1 or 2 (bad). */
export type InspectionAnswers = Record<InspectionItem, 0 | 1 | 2>;

/** What each answer costs of 100. Common practice, no source. */
const COSTS: Record<InspectionItem, readonly [0, number, number]> = {
  sound: [0, 15, 40],
  look: [0, 10, 45],
  feel: [0, 10, 30],
  tune: [0, 12, 40],
  winding: [0, 15, 100],
};

export interface Condition {
  /** 100 new, 0 spent. */
  score: number;
  /** `change`: at once; `soon`: within two weeks; `good`: nothing to do. */
  verdict: 'change' | 'soon' | 'good';
  because: string;
}

const CHANGE_BELOW = 50;
const SOON_BELOW = 75;

/** What a quick inspection says of the strings. One bad enough sign decides alone: a loose winding, rust. */
export function conditionOf(answers: InspectionAnswers): Condition {
  const items = Object.keys(INSPECTION) as InspectionItem[];
  const score = Math.max(
    0,
    items.reduce((left, item) => left - COSTS[item][answers[item]], 100),
  );
  const signs = items
    .filter((item) => answers[item] > 0)
    .sort((a, b) => COSTS[b][answers[b]] - COSTS[a][answers[a]])
    .map((item) => `${WORDS[item][answers[item]]}`);
  return {
    score,
    verdict: score < CHANGE_BELOW ? 'change' : score < SOON_BELOW ? 'soon' : 'good',
    because: signs.length ? signs.slice(0, 2).join(', ') : 'looks, feels and sounds good',
  };
}

const WORDS: Record<InspectionItem, readonly [string, string, string]> = {
  sound: ['', 'a little dull', 'sounds dull'],
  look: ['', 'dark strings', 'rust on the strings'],
  feel: ['', 'grimy', 'rough to the touch'],
  tune: ['', 'needs tuning each lesson', 'will not stay in tune'],
  winding: ['', 'windings worn flat', 'a winding is loose'],
};
