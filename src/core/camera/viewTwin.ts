import { ViewGeometry } from './pose';
import { fillLeft, shade } from './viewBackward';
import { newBand, project } from './viewForward';
import type { ViewInput } from './viewKernel';

/** Rows of a view, made plainly: the readable twin of the kernel that makes them (kernels/assembly/view*.ts). */
export function viewRowsPlainly(input: ViewInput, y0: number, y1: number, out: Float32Array): void {
  const { plate, lens, pose, enlarged } = input;
  const g = new ViewGeometry(lens, pose, enlarged, plate.pad);
  const band = newBand(y0, y1, lens.width);
  project(g, plate, band);
  shade(g, input, band, out);
  fillLeft(band, input, out);
}
