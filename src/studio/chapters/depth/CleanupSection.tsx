import LockIcon from '@mui/icons-material/LockOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Switch from '@mui/material/Switch';
import { memo, useState } from 'react';
import { cleanupOf, cleanups, knowsCleanup } from '../../../core/depth/cleanup/registry';
import { newCleanup } from '../../../core/document/defaults';
import type { CleanupItem } from '../../../core/document/schema';
import { ParamRows } from '../../controls/ParamRows';
import { useTint } from '../../controls/useTint';
import { changeSettings, shotOf, useDocument, type Gesture } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { useViewPart } from '../../state/viewStore';

/** The steps of clean-up: each switched, opened for its settings, and telling what it did. */
export const CleanupSection = memo(function CleanupSection() {
  const items = useDocument((s) => shotOf(s)!.settings.cleanup);
  const [open, setOpen] = useState<string | null>(null);
  return (
    <Box component="section" aria-label="Clean-up" sx={{ borderTop: '1px solid var(--line)' }}>
      <Head any={items.some((c) => c.on)} />
      {items
        .filter((c) => !knowsCleanup(c.kind))
        .map((c) => (
          <Box key={c.kind} sx={{ display: 'flex', alignItems: 'center', gap: '8px', minHeight: 30, padding: '0 14px', color: 'var(--mute)' }}>
            <LockIcon titleAccess="Not known here" sx={{ width: 28, fontSize: 14 }} />
            {cleanupOf(c.kind).label}, left out of the map
          </Box>
        ))}
      {cleanups.map((definition) => (
        <CleanupRow
          key={definition.kind}
          definition={definition}
          item={items.find((c) => c.kind === definition.kind)}
          open={open === definition.kind}
          onOpen={(shown) => setOpen(shown ? definition.kind : null)}
        />
      ))}
    </Box>
  );
});

function Head({ any }: { any: boolean }) {
  const { mode, set } = useViewPart('mode', 'set');
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', padding: '6px 14px 4px' }}>
      <Box component="h3" sx={{ flex: 1, margin: 0, fontSize: 12.5, fontWeight: 600 }}>
        Clean-up
      </Box>
      <Button
        disabled={!any}
        aria-pressed={mode === 'wipe'}
        title="Wipe between the map before and after clean-up (w)"
        onClick={() => set({ mode: mode === 'wipe' ? 'depth' : 'wipe' })}
        sx={{ height: 22, padding: '0 8px' }}
      >
        Compare
      </Button>
    </Box>
  );
}

/** Changes a step, which is listed from then on. */
const change = (kind: string, recipe: (item: CleanupItem) => void, gesture?: Gesture): void =>
  changeSettings((s) => {
    if (!s.cleanup.some((c) => c.kind === kind)) s.cleanup.push(newCleanup(kind));
    recipe(s.cleanup.find((c) => c.kind === kind)!);
  }, gesture);

interface RowProps {
  readonly definition: (typeof cleanups)[number];
  readonly item: CleanupItem | undefined;
  readonly open: boolean;
  readonly onOpen: (open: boolean) => void;
}

function CleanupRow({ definition: { kind, label, help, params }, item, open, onOpen }: RowProps) {
  const tintOf = useTint();
  const figure = useSession((s) => s.preview?.cleaned?.[kind]);
  const on = item?.on ?? false;
  return (
    <Box sx={open ? { background: 'var(--raise)' } : undefined}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', height: 30, padding: '0 14px' }}>
        <Switch checked={on} onChange={(_, next) => change(kind, (c) => void (c.on = next))} slotProps={{ input: { 'aria-label': `${label} on` } }} />
        <ButtonBase
          aria-expanded={open}
          title={help}
          onClick={() => onOpen(!open)}
          sx={{ flex: 1, height: '100%', minWidth: 0, justifyContent: 'space-between', gap: '8px', color: on ? 'var(--text)' : 'var(--mute)' }}
        >
          <Box component="span" sx={{ whiteSpace: 'nowrap' }}>
            {label}
          </Box>
          <Box
            component="span"
            className="mono"
            sx={{ color: 'var(--mute)', fontSize: 10.5, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
          >
            {on ? (figure ?? '') : ''}
          </Box>
        </ButtonBase>
      </Box>
      {open && (
        <ParamRows
          params={params}
          of={{ place: 'cleanup', item: kind }}
          values={item?.values ?? {}}
          tintOf={tintOf}
          onChange={(name, value, gesture) =>
            change(kind, (c) => void Object.assign(c, { values: { ...c.values, [name]: value }, on: true }), gesture)
          }
        />
      )}
    </Box>
  );
}
