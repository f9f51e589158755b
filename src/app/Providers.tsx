'use client';

import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import type { ReactNode } from 'react';
import * as z from 'zod';
import { tellWorkersByQuery } from '../engine/pool/workerAddress';
import { theme } from '../theme/theme';
import { Offline } from './Offline';

// nothing in the page may be made from text
z.config({ jitless: true });
tellWorkersByQuery();

export function Providers({ children }: { children: ReactNode }) {
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <Offline />
      {children}
    </ThemeProvider>
  );
}
