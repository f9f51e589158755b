import * as z from 'zod';

/** A number, endless ones too: zod's own is always finite. Nothing that is set lies endlessly far below nothing. */
export const anyNumber = z.custom<number>((v) => typeof v === 'number' && v > -Infinity, 'expected a number');
