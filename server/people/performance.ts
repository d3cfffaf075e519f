import type { Person, Trust } from '../programme/programme';

/** Whether somebody is told how fast and how well a person works: always of themselves, of others as the programme says. */
export function seesPerformance(
  trust: Pick<Trust, 'performance'>,
  who: Pick<Person, 'id' | 'role'>,
  personId: number,
): boolean {
  if (who.id === personId) return true;
  if (trust.performance === 'own') return false;
  return who.role === 'coordinator' || (trust.performance === 'desk' && who.role === 'technician');
}
