import * as z from 'zod';
import { anyNumber } from './anyNumber';

/** Stands for an endless distance in JSON, which has no infinity. */
export const ENDLESS = 'infinite';

/** For JSON.stringify: endless numbers as the word. */
export const endlessAsWord = (_: string, value: unknown): unknown => (value === Infinity ? ENDLESS : value);

/** A number that may be endless, as it is kept: itself, or the word. */
export const storedNumber = z.union([anyNumber, z.literal(ENDLESS).transform(() => Infinity)]);

/** Settings as text, endless numbers as words: what `readProject` and `readLook` read back. */
export const writeJson = (value: unknown, indent?: number): string => JSON.stringify(value, endlessAsWord, indent);
