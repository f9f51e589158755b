import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import Box from '@mui/material/Box';
import { StackRow, type StackItem, type StackProps } from './StackRow';

/** A list whose rows are moved by dragging their handles. */
export function SortableRows(props: StackProps) {
  const { label, items, onMove } = props;
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const dropped = ({ active, over }: DragEndEvent): void => {
    const to = items.findIndex((i) => i.id === over?.id);
    if (over && active.id !== over.id && to >= 0) onMove?.(String(active.id), to);
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
      <SortableContext items={items.map((i) => i.id)} strategy={verticalListSortingStrategy}>
        <Box role="list" aria-label={label}>
          {items.map((item, index) => (
            <SortableRow key={item.id} item={item} index={index} {...props} />
          ))}
        </Box>
      </SortableContext>
    </DndContext>
  );
}

function SortableRow(props: StackProps & { item: StackItem; index: number }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: props.item.id,
    disabled: props.item.unknown === true,
  });
  const hold = {
    row: setNodeRef,
    handle: setActivatorNodeRef,
    handleProps: { ...attributes, ...listeners },
    style: { transform: CSS.Translate.toString(transform), transition },
    dragging: isDragging,
  };
  return <StackRow {...props} hold={hold} />;
}
