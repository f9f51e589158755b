const ARROWS: Readonly<Record<string, readonly [number, number]>> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** The arrow keys as a step, right and down, or null. */
export const arrowStep = (key: string): readonly [number, number] | null => ARROWS[key] ?? null;
