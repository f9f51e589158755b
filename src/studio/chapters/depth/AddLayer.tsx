import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { layers } from '../../../core/depth/layers/registry';
import { steady } from '../../controls/steady';
import { addLayerOf } from './layerActions';

/** Every kind of layer, with what it is for. A map comes from a file. */
export const AddLayer = steady(function AddLayer({ onImport }: { onImport: () => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button sx={{ height: 24, padding: '0 8px' }} aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Add layer
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {layers.map((definition) => (
          <MenuItem
            key={definition.kind}
            onClick={() => {
              setAnchor(null);
              if (definition.fromFile) onImport();
              else addLayerOf(definition.kind);
            }}
          >
            <Box>
              {definition.label}
              <Box sx={{ color: 'var(--mute)', fontSize: 11 }}>{definition.help}</Box>
            </Box>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
});
