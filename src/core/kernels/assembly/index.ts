export { beginScatter, scatterRows } from './scatter';
export { hiddenPlate } from './hidden';
export { guidedCoefficients, guidedApply } from './guided';
export { radiiOfDistances, packRadii } from './radii';
export { snapEdges } from './snap';
export { convolve, depthwise } from './convolve';
export { addRow, reduceRow, encodePixels } from './light';
export { viewRows } from './view';
