import { describeError } from '../src/core/error';

/** One line for standard error. */
export const errorLine = (error: unknown): string => `error: ${describeError(error).replace(/\s*\n\s*/g, ' ')}`;
