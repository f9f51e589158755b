import './kernels';
import { basename } from 'node:path';
import { layPlate } from '../src/core/camera/behind';
import { firmDistances } from '../src/core/camera/firmEdges';
import { plateLens } from '../src/core/camera/pose';
import { LEAST_PAD } from '../src/core/camera/viewKernel';
import { OmbrageError } from '../src/core/error';
import { sceneShape, withColours, type MeshChoice, type SceneMesh } from '../src/core/mesh/scene';
import { sheetsOf } from '../src/core/mesh/sheet';
import { gainFor, spreadOf } from '../src/core/mesh/spread';
import { USUAL_PARALLAX } from '../src/core/shot/sceneOut';
import { told } from '../src/formats/outputs/meshScene';
import { encodeGlb } from '../src/formats/mesh/glb';
import { encodeObjZip } from '../src/formats/mesh/obj';
import { encodePly } from '../src/formats/mesh/ply';
import { ENCODERS, checkOutput, writeBytes } from './stills';
import { fieldOfView, readPair } from './verbs';

interface MeshOptions {
  readonly picture: string;
  readonly distance: string;
  readonly hfov: string;
  readonly triangles: string;
  readonly behind?: boolean;
  readonly stretched?: boolean;
  readonly points?: boolean;
  readonly out: string;
}

/** What takes a scene apart takes some thirty times as many bytes. */
const MOST_PIXELS = 16e6;

const ENDINGS = ['.glb', '.ply', '.obj.zip'];

/** A number of triangles as it was typed. Throws OmbrageError. */
function count(text: string): number {
  const n = Number(text);
  if (!Number.isInteger(n) || n < 1) throw new OmbrageError('bad-setting', `"${text}" is no number of triangles.`, 'Give a whole number above 0.');
  return n;
}

/** A picture and its distances as a scene. Throws OmbrageError. */
export async function sceneOfFiles(
  picturePath: string,
  distancePath: string,
  hfovText: string,
  choice: MeshChoice,
  parallax = USUAL_PARALLAX,
): Promise<SceneMesh> {
  const hfov = fieldOfView(hfovText);
  const { picture, distance } = await readPair(picturePath, distancePath);
  if (picture.width * picture.height > MOST_PIXELS)
    throw new OmbrageError(
      'too-large',
      `${basename(picturePath)} has ${((picture.width * picture.height) / 1e6).toFixed(0)} megapixels: too many to take apart.`,
      'Give both at 16 megapixels at the most.',
    );
  const lens = plateLens(picture.width, picture.height, hfov);
  const firm = firmDistances(distance, picture);
  const gain = gainFor(
    parallax,
    lens.width,
    spreadOf(firm.data.length, (i) => 1 / Math.max(1e-3, firm.data[i]!)),
  );
  const plate = layPlate(picture, firm, { gain, pad: LEAST_PAD, border: 'mirrored', hidden: true });
  const sheets = sheetsOf(plate, choice);
  return withColours(await sceneShape(sheets, lens, gain, choice), sheets);
}

/** `mesh --picture P --distance D.pfm --hfov H --out M`: the scene of a picture for a 3D program, in metres. */
export async function mesh(options: MeshOptions): Promise<string> {
  checkOutput(options.out, ENDINGS);
  const triangles = options.points ? Infinity : count(options.triangles);
  if (options.points && !/\.ply$/i.test(options.out))
    throw new OmbrageError('bad-output', `${options.out} cannot hold points alone.`, 'Give a name that ends in .ply.');
  const scene = await sceneOfFiles(options.picture, options.distance, options.hfov, {
    triangles,
    behind: options.behind === true,
    stretched: options.stretched === true,
  });
  const name = basename(options.out).replace(/(\.obj)?\.[a-z]+$/i, '');
  const written = { scene, name, encoders: ENCODERS };
  const bytes = /\.glb$/i.test(options.out)
    ? await encodeGlb(written)
    : /\.ply$/i.test(options.out)
      ? encodePly(scene, !options.points)
      : await encodeObjZip(written);
  writeBytes(options.out, bytes);
  const points = scene.surfaces.reduce((n, s) => n + s.mesh.x.length, 0);
  return `${options.out}: ${options.points ? `${points.toLocaleString('en')} points` : told(scene)}`;
}
