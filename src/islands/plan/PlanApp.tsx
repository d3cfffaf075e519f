import { useState } from 'react';
import type { PlanPage } from '../../../server/plan/page';
import { PlanBoard } from './PlanBoard';

/** The plan of the page it stands in, which brings what is known as JSON beside it. */
export function PlanApp() {
  const [page] = useState((): PlanPage => JSON.parse(document.getElementById('plan-page')?.textContent ?? ''));
  return <PlanBoard input={page.input} proposal={page.proposal} />;
}
