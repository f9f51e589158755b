import { basename } from 'node:path';
import { focalLengthOfHfov } from '../src/core/optics';
import { inspectStill } from '../src/formats/inspect';
import { readBytes } from './readBytes';

/** `inspect FILE`: what a file is, a line each. */
export async function inspect(path: string): Promise<string> {
  const bytes = readBytes(path);
  if (path.toLowerCase().endsWith('.ombrage')) {
    const { unpackProject } = await import('../src/formats/project/projectFile');
    const { project, media, remarks } = await unpackProject(new Blob([bytes as Uint8Array<ArrayBuffer>]), basename(path));
    const shots = project.shots.map((s, i) => `  ${i + 1}  ${s.name}, ${s.plate.width}x${s.plate.height} px`);
    return [
      `project: ${project.name}`,
      `shots: ${project.shots.length}`,
      ...shots,
      `media: ${media.size} files`,
      ...remarks.map((r) => `remark: ${r}`),
    ].join('\n');
  }
  const f = await inspectStill(bytes, basename(path));
  return [
    `format: ${f.format}`,
    `size: ${f.width}x${f.height} px`,
    `bits: ${f.bits}`,
    `colour: ${f.colour}${f.animated ? ', animated (its first frame is used)' : ''}`,
    `field of view: ${f.hfovDegrees === null ? 'not in the file' : `${f.hfovDegrees.toFixed(1)}° (${focalLengthOfHfov(f.hfovDegrees).toFixed(0)} mm)`}`,
    `depth inside: ${f.depthInside ?? 'no'}`,
  ].join('\n');
}
