import { type Said, type Screen, whoseWords, wordsOf } from '../../../core/procedures/led';
import { PHASE_NAMES } from '../../../core/procedures/types';
import type { BenchView } from '../../../server/bench/page';
import { Filled } from '../../components/Filled';
import { lowerFirst } from './screen';

const LIST_TITLES: Partial<Record<Screen['phase'], string>> = {
  prepare: 'Lay it down and set everything out.',
  slacken: 'Slacken completely, then open the locks.',
  remove: 'Take the old strings off.',
  clean: 'Clean, and check what is now uncovered.',
  tune: 'Up to pitch, always from below.',
  'last-checks': 'Last checks.',
};

export function Sentence({ said, bench, screen }: { said: Said; bench: BenchView; screen: Screen }) {
  const whose = whoseWords(
    said,
    bench.tuned
      .filter((t) => screen.positions.includes(t.number))
      .map((t) => ({ ...t, note: bench.positions.find((p) => p.number === t.number)?.note ?? '' })),
  );
  return (
    <>
      {whose}
      <Filled text={whose ? lowerFirst(said.text) : said.text} numbers={said.numbers} />
    </>
  );
}

/** What a screen is called: its one step, what is done on its strings, or its phase. */
export function Title({ screen, bench }: { screen: Screen; bench: BenchView }) {
  const only = bench.positions.find((p) => p.number === screen.positions[0]);
  if (screen.kind === 'one-string' && only)
    return (
      <>
        {only.note} (string {only.number}, {only.lies} side):{' '}
        {screen.steps.some((s) => s.phase === 'remove')
          ? 'old string off, new string on'
          : 'from the tail to near pitch'}
      </>
    );
  if (screen.kind === 'list') return <>{LIST_TITLES[screen.phase] ?? PHASE_NAMES[screen.phase]}</>;
  return wordsOf(screen).title.map((said) => (
    <span key={said.text} className="block">
      <Sentence said={said} bench={bench} screen={screen} />
    </span>
  ));
}
