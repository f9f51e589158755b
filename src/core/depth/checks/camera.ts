import type { CheckDefinition } from './definition';

const percent = (pixels: number, of: number): string => `${((100 * pixels) / of).toFixed(1)} % of the picture`;

/** Where the camera's moves look behind things: what is seen there is made up. */
export const torn: CheckDefinition = {
  kind: 'torn',
  label: 'Torn edges',
  help: 'Where a move looks behind things, at this frame',
  needsCamera: true,
  run: ({ camera, raw }) => {
    const marks = { width: raw.width, height: raw.height, data: new Float32Array(raw.data.length) };
    if (!camera?.uncovered) return { marks, figure: 'The camera stands where the plate was taken' };
    let count = 0;
    for (let i = 0; i < marks.data.length; i++) {
      marks.data[i] = camera.uncovered[i]!;
      count += camera.uncovered[i]!;
    }
    return { marks, figure: percent(count, marks.data.length) };
  },
};

/** The plate with everything before an edge taken away as far as moves look behind it. */
export const behind: CheckDefinition = {
  kind: 'behind',
  label: 'Behind',
  help: 'What the hidden parts are filled with',
  needsCamera: true,
  run: ({ camera, raw, picture }) => {
    const marks = { width: raw.width, height: raw.height, data: new Float32Array(raw.data.length) };
    if (!camera) return { marks, figure: 'not looked at', shown: picture };
    const { picture: shown, filled } = camera.behind;
    let count = 0;
    for (let i = 0; i < marks.data.length; i++) count += marks.data[i] = filled[i]!;
    return { marks, shown, figure: percent(count, marks.data.length) };
  },
};
