import '../headless/kernels';
import { renderClipFrames } from './clipFrames';
await renderClipFrames(1);
