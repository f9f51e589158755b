import * as z from 'zod';

/** A number, endless ones too: zod's own is always finite. */
export const anyNumber = z.custom<number>((v) => typeof v === 'number' && !Number.isNaN(v), 'expected a number');
