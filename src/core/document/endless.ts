/** Stands for an endless distance in JSON, which has no infinity. */
export const ENDLESS = 'infinite';

/** For JSON.stringify: endless numbers as the word. */
export const endlessAsWord = (_: string, value: unknown): unknown => (value === Infinity ? ENDLESS : value);
