import Box from '@mui/material/Box';
import { lazy, Suspense } from 'react';
import { StackRow, type Hold, type StackProps } from './StackRow';
import { steady } from './steady';

const NO_HOLD: Hold = {};

/** Moving rows with the pointer is loaded when there is something to move. */
const SortableRows = lazy(() => import('./SortableRows').then((m) => ({ default: m.SortableRows })));

/** A list of things that can be chosen, switched, moved, named and deleted; Alt with the arrow keys moves, F2 names, Delete deletes. */
export const StackList = steady(function StackList(props: StackProps) {
  const { label, items, onMove } = props;
  const list = (
    <Box role="list" aria-label={label}>
      {items.map((item, index) => (
        <StackRow key={item.id} item={item} index={index} hold={NO_HOLD} {...props} />
      ))}
    </Box>
  );
  return onMove && items.length > 1 ? (
    <Suspense fallback={list}>
      <SortableRows {...props} />
    </Suspense>
  ) : (
    list
  );
});
