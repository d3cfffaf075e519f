import { isLocking } from '../../../core/parts/tuners';
import type { Screen } from '../../../core/procedures/led';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord } from '../../../core/procedures/words';
import { tightens } from '../../../core/winding/post';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TailDrawing } from '../../components/drawings/TailDrawing';

import type { ScreenProps } from './screen';

/** What is on the screen, drawn, where it has a drawing. */
export function ScreenDrawing({ screen, bench, method }: ScreenProps & { screen: Screen }) {
  const drawn = screen.steps.find((s) => s.drawing && s.drawing !== 'order');
  if (!drawn) return null;
  const position = bench.positions.find((p) => p.number === drawn.positions[0]);
  const product = bench.choices.find((c) => c.id === position?.houseProductId);
  // The whole row of winding steps has its number where it is wound.
  const winds = screen.steps.find((s) => s.positions[0] === drawn.positions[0] && s.numbers?.winds)?.numbers?.winds;
  return (
    <div className="grid place-items-center">
      {drawn.drawing === 'post' && winds && method ? (
        <PostDrawing
          kind={postWord(bench.build)}
          turns={winds.value}
          gaugeMm={product?.gaugeMm ?? 0.8}
          diameterMm={bench.build.post.diameterMm}
          over={turnsOver(method, product?.wound ?? true)}
          selfLock={method.winds === 'self-lock'}
          locking={isLocking(bench.build)}
          slotted={bench.build.tuner === 'slotted-post'}
          rotation={position ? tightens(bench.build.head, position.side, bench.build.handedness) : 'over-the-top'}
          stackMm={winds.value * (product?.gaugeMm ?? 0.8)}
          roomMm={bench.build.post.roomUnderHoleMm}
          away={drawn.numbers?.away?.value ?? 0}
        />
      ) : drawn.drawing === 'tail' ? (
        <TailDrawing
          tailEnd={bench.build.tailEnd}
          stringEnd={bench.build.stringEnd}
          turns={drawn.numbers?.turns?.value ?? 2}
        />
      ) : null}
    </div>
  );
}
