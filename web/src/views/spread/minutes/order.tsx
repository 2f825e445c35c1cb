import {
  closestCenter,
  DndContext,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { SortableContext, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import type { ReactNode } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { useSay } from "../../../parts/sayings";
import { t } from "../../../texts";
import { useMinutesChange, type MinutesLine } from "./changes";

/** Where a line stands: in a section, as which of its lines. */
export interface Place {
  section: string;
  position: number;
}

/** Puts a line in another place, and back if one thinks better of it. */
export function useMove(meeting: Schemas["MeetingOut"]) {
  const say = useSay();
  const change = useMinutesChange(meeting, ({ id, to }: { id: number; to: Place }) =>
    the(
      client.PATCH("/api/minutes/lines/{line_id}", {
        params: { path: { line_id: id } },
        body: to,
      }),
    ),
  );
  const move = (id: number, from: Place, to: Place, said: string) =>
    change.mutate(
      { id, to },
      {
        onSuccess: () => {
          say(said, () => change.mutate({ id, to: from }));
          // The list is another after it: whoever walked there is still at the line.
          requestAnimationFrame(() =>
            document.querySelector<HTMLElement>(`[data-minutes="${id}"]`)?.focus(),
          );
        },
      },
    );
  return { move, error: change.error };
}

/** Lines that can be dragged to another place, in their section or into another. */
export function Dragged({
  lines,
  moved,
  children,
}: {
  lines: MinutesLine[];
  moved: (line: MinutesLine, to: Place) => void;
  children: ReactNode;
}) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const end = ({ active, over }: DragEndEvent) => {
    const line = lines.find((one) => one.id === active.id);
    const onto = lines.find((one) => one.id === over?.id);
    if (!line || !onto || line === onto) return;
    const inside = lines.filter((one) => one.section === onto.section);
    moved(line, { section: onto.section, position: inside.indexOf(onto) });
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={end}>
      <SortableContext items={lines.map((one) => one.id)} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** A line as one that can be dragged by its handle. */
export function useDragged(line: MinutesLine, off: boolean) {
  const { setNodeRef, setActivatorNodeRef, listeners, transform, transition, isDragging } =
    useSortable({ id: line.id, disabled: off });
  return {
    row: setNodeRef,
    style: {
      transform: transform ? `translate3d(0, ${transform.y}px, 0)` : undefined,
      transition,
      zIndex: isDragging ? 20 : undefined,
    },
    handle: off ? null : (
      <span
        ref={setActivatorNodeRef}
        {...listeners}
        title={t.minutes.drag({ line: line.text })}
        aria-hidden
        className="hidden cursor-grab touch-none px-1 text-faded select-none group-focus-within:inline group-hover:inline"
      >
        <svg viewBox="0 0 8 16" width="8" height="16" className="inline translate-y-0.5">
          <path d="M4 1v14M1 4l3-3 3 3M1 12l3 3 3-3" fill="none" stroke="currentColor" />
        </svg>
      </span>
    ),
  };
}
