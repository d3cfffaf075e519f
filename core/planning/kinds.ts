/** What a plan can be about: strings to change or take off, a look, a visit after a change. */
export const PLAN_KINDS = [
  'change',
  'service',
  'refit',
  'inspection',
  'retune',
  'bridge-check',
  'proper-look',
] as const;
export type PlanKind = (typeof PLAN_KINDS)[number];

export const PLAN_KIND_WORDS: Record<PlanKind, string> = {
  change: 'strings',
  service: 'yearly service',
  refit: 'strings off and back on',
  inspection: 'inspection',
  retune: 'retune',
  'bridge-check': 'bridge check',
  'proper-look': 'stretch and trim',
};

/** Visits fall after a change; they take no pack and no set-up. */
export const isVisit = (kind: PlanKind): boolean =>
  kind === 'retune' || kind === 'bridge-check' || kind === 'proper-look';
