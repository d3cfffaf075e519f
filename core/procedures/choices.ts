import type { Method } from './types';

/** The choices a house has, each with its name and what it does. Common practice, no source. */
export const CHOICES = {
  atATime: [
    { value: 'all', name: 'All off at once', does: 'Room for a proper clean; never left like that for days.' },
    { value: 3, name: 'Three at a time', does: 'Keeps a wrap-around bridge on its studs.' },
    { value: 2, name: 'Two at a time', does: 'Keeps part of the tension on the top.' },
    { value: 1, name: 'One at a time', does: 'Always on a floating bridge; the next string shows how it should look.' },
  ],
  order: [
    { value: 'thick-to-thin', name: 'Thick to thin', does: 'It hardly matters on a fixed bridge.' },
    { value: 'thin-to-thick', name: 'Thin to thick', does: 'The other way round.' },
    {
      value: 'outer-inward',
      name: 'Outer strings first, then inward',
      does: 'No finished string blocks the next post.',
    },
    { value: 'number-down', name: 'By number, highest first', does: 'Banjo 5 to 1, ukulele 4 to 1.' },
    { value: 'pairs-from-nut', name: 'In pairs from the nut', does: 'Double bass: the crossing string goes last.' },
  ],
  finish: [
    { value: 'by-phase', name: 'All tails, then all posts', does: 'One tool at a time: how practised people work.' },
    {
      value: 'by-string',
      name: 'Each string to near pitch, then the next',
      does: 'The finished string shows how the next should look.',
    },
  ],
  winds: [
    { value: 'one-over', name: 'One over, the rest under', does: 'The winds clamp the end; easy to undo.' },
    { value: 'spiral-down', name: 'Spiral down', does: 'Simple and quick; friction alone holds it.' },
    {
      value: 'self-lock',
      name: 'Self-lock',
      does: 'Needs less slack, holds like a lock; slower to take off.',
    },
  ],
  hole: [
    { value: 'across', name: 'Hole across the neck', does: 'Set all posts alike before you start.' },
    { value: 'along', name: 'Hole along the neck', does: 'Set all posts alike before you start.' },
    { value: 'angled', name: 'Hole about 45° towards the inside', does: 'Set all posts alike before you start.' },
  ],
  hanging: [
    { value: 'taped', name: 'Taped in place', does: 'Nothing is moved that need not be.' },
    {
      value: 'lifted',
      name: 'Lifted off, threaded on the bench',
      does: 'Clean underneath; first string on soon after.',
    },
  ],
  trimWhen: [
    { value: 'when-settled', name: 'When settled', does: 'A slipping string can still be rescued.' },
    { value: 'after-first-tension', name: 'Once near pitch', does: 'Ends out of the way sooner.' },
    { value: 'before-winding', name: 'Before winding', does: 'Measured first; nothing to trim later.' },
  ],
} as const satisfies Record<string, readonly { value: string | number; name: string; does: string }[]>;

/** Names of the choices in which two methods differ, for asking why. */
export function differences(house: Method, chosen: Method): string[] {
  const names: Record<keyof Method, string> = {
    atATime: 'how many at a time',
    order: 'the order',
    finish: 'what is finished first',
    slack: 'the slack',
    slackPlain: 'the slack of plain strings',
    slackThinWound: 'the slack of the thinnest wound string',
    winds: 'the winds',
    windsPlain: 'the winds of plain strings',
    hole: 'the post hole',
    trim: 'when to trim',
    stretchRounds: 'the rounds of stretching',
    hanging: 'how a loose tailpiece is handled',
    ties: 'the tucks in a tie',
  };
  return (Object.keys(names) as (keyof Method)[])
    .filter((key) => JSON.stringify(house[key]) !== JSON.stringify(chosen[key]))
    .map((key) => names[key]);
}

/** A departure from the house method without a reason. */
export class NoReasonError extends Error {
  constructor(readonly differs: readonly string[]) {
    super(`This differs from the usual method (${differs.join(', ')}). Add a short reason; it is kept in the record.`);
    this.name = 'NoReasonError';
  }
}

/**
 * The method of one job that departs from the house's.
 * @throws NoReasonError when something differs and no reason is given
 */
export function depart(house: Method, chosen: Partial<Method>, reason: string): { method: Method; differs: string[] } {
  const method = { ...house, ...chosen };
  const differs = differences(house, method);
  if (differs.length > 0 && reason.trim().length < 3) throw new NoReasonError(differs);
  return { method, differs };
}
