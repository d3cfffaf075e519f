import {
  DndContext,
  type DragEndEvent,
  type DragOverEvent,
  DragOverlay,
  type DragStartEvent,
  MouseSensor,
  pointerWithin,
  TouchSensor,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { type CSSProperties, createContext, type ReactNode, useContext, useMemo, useState } from 'react';
import type { PlanInput } from '../../../server/plan/problem';
import { shortOf } from './model';
import type { PlanInHand } from './usePlan';

/** What is in the hand, and what would break where it is held; `says` is null where nothing would. */
interface Dragged {
  job: number | null;
  over: { shift: number; says: string | null } | null;
}

const Hand = createContext<Dragged>({ job: null, over: null });
export const useDragged = (): Dragged => useContext(Hand);

/** Out of every session. */
export const OUT = -1;

// By touch a job is held for a moment first, so that a list can still be scrolled; a press is no drag.
const MOUSE = { activationConstraint: { distance: 6 } };
const TOUCH = { activationConstraint: { delay: 250, tolerance: 8 } };
// The keyboard has its own way, in the panel of a job: what is said of it here would be said twice.
const QUIET = {
  screenReaderInstructions: { draggable: '' },
  announcements: {
    onDragStart: () => undefined,
    onDragOver: () => undefined,
    onDragEnd: () => undefined,
    onDragCancel: () => undefined,
  },
};

/** Jobs are moved between sessions by mouse or by touch; what would break is said while one is still in the hand. */
export function Dragging({
  input,
  hand,
  several,
  children,
}: {
  input: PlanInput;
  hand: PlanInHand;
  /** Jobs chosen together: whichever of them is taken, all are. */
  several: ReadonlySet<number>;
  children: ReactNode;
}) {
  const [job, setJob] = useState<number | null>(null);
  const [over, setOver] = useState<Dragged['over']>(null);
  const sensors = useSensors(useSensor(MouseSensor, MOUSE), useSensor(TouchSensor, TOUCH));
  const value = useMemo(() => ({ job, over }), [job, over]);
  const withIt = (own: number): number[] => (several.has(own) ? [...several] : [own]);
  const end = () => {
    setJob(null);
    setOver(null);
  };
  return (
    <Hand.Provider value={value}>
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        accessibility={QUIET}
        onDragStart={(e: DragStartEvent) => setJob(e.active.data.current?.job ?? null)}
        onDragOver={(e: DragOverEvent) => {
          const shift = e.over?.data.current?.shift as number | undefined;
          const own = e.active.data.current?.job as number;
          if (shift === undefined || shift === OUT) setOver(null);
          else
            setOver({
              shift,
              says: several.has(own) ? hand.verdictOfAll(withIt(own), shift) : hand.verdict(own, shift),
            });
        }}
        onDragEnd={(e: DragEndEvent) => {
          end();
          const shift = e.over?.data.current?.shift as number | undefined;
          const own = e.active.data.current?.job as number;
          if (shift !== undefined && withIt(own).some((i) => (hand.plan[i] as number) !== shift))
            hand.move(withIt(own), shift);
        }}
        onDragCancel={end}
      >
        {children}
        <DragOverlay dropAnimation={null}>
          {job !== null && (
            <span className="tag text-sm px-1.5 py-0.5 rounded border-2 border-primary bg-base-100 shadow">
              {input.jobs[job]?.tag} <span className="font-sans">{shortOf(input, job)}</span>
              {several.has(job) && <span className="font-sans"> and {several.size - 1} more</span>}
            </span>
          )}
        </DragOverlay>
      </DndContext>
    </Hand.Provider>
  );
}

/** A place where a job can be put down. */
export function DropHere({
  shift,
  className,
  style,
  children,
}: {
  shift: number;
  className: string;
  style?: CSSProperties;
  children: ReactNode;
}) {
  const { setNodeRef, isOver } = useDroppable({ id: `shift-${shift}`, data: { shift } });
  return (
    <div ref={setNodeRef} data-shift={shift} data-over={isOver || undefined} className={className} style={style}>
      {children}
    </div>
  );
}
