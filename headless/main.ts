import { builtIn, QUICKEST, USUAL_QUALITY } from '../src/core/need/estimators';
import { givenDepths, valueScales } from '../src/core/need/networkUse';
import { program, type Command } from 'commander';
import { errorLine } from './errorLine';

/** The command line: the same core without a browser. Help follows from the definitions. */
/** Runs a verb: its module is read when it is asked for. */
const run =
  <A extends unknown[]>(verb: () => Promise<(...args: A) => Promise<string>>) =>
  async (...args: A): Promise<void> => {
    try {
      const asked = await verb();
      console.log(await asked(...args));
    } catch (error) {
      console.error(errorLine(error));
      process.exitCode = 1;
    }
  };

/** What is said of a network of one's own. */
const withNetwork = (verb: Command): Command =>
  verb
    .option('--network <file>', 'ask a network of your own instead: an .onnx file')
    .option(
      '--values <scale>',
      `how it is given the picture: ${valueScales.join(', ')}; where not given as its file tells, or as goes best with our draft`,
    )
    .option('--gives <depth>', `what it answers: ${givenDepths.join(', ')}; where not given as its file tells, or guessed`)
    .option('--sharper', 'ask it again in overlapping parts at twice the size');

// every effect is known only where they are listed
const listed = process.argv[2] === 'apply' ? (await import('./effectHelp')).effectHelp() : '';

program.name('ombrage').description('Depth maps for stills, and effects driven by distance, without a browser.').exitOverride();
program.configureOutput({ outputError: (text, write) => write(text.replace(/^error: /, 'error: ')) });
program
  .command('inspect')
  .argument('<file>')
  .description('say what a picture or project file is')
  .action(run(async () => (await import('./inspectVerb')).inspect));
withNetwork(program.command('estimate'))
  .argument('<picture>')
  .option(
    '--quality <quality>',
    builtIn()
      .map((e) => e.kind)
      .join(' or '),
    USUAL_QUALITY,
  )
  .requiredOption('--out <map>', 'raw nearness, white near: .png (16-bit) or .pfm (float)')
  .description('estimate a depth map from a picture')
  .action(run(async () => (await import('./verbs')).estimate));
withNetwork(program.command('depth-clip'))
  .argument('<clip>', 'mp4, mov, mkv or webm (by ffmpeg), an animated picture, or a folder of numbered pictures')
  .option(
    '--quality <quality>',
    builtIn()
      .map((e) => e.kind)
      .join(' or '),
    QUICKEST,
  )
  .option('--steady <strength>', '0..100; 0 leaves each frame as it is estimated', '70')
  .option(
    '--every <frames>',
    'depth is estimated every so many frames, and carried to those between; ' +
      builtIn()
        .map((e) => `${e.every} for ${e.kind}`)
        .join(', '),
  )
  .option('--parallax', 'corrected besides by what passes faster, where the camera goes through the scene')
  .option('--frames <range>', 'some of them, such as 0-95')
  .requiredOption('--out <place>', 'a folder for 16-bit PNGs, white near, or a .webm without loss')
  .description('estimate depth for the frames of a clip, and make it steady')
  .action(run(async () => (await import('./clipVerbs')).depthClip));
program
  .command('mesh')
  .requiredOption('--picture <file>', 'the picture')
  .requiredOption('--distance <map>', 'its distances in metres, .pfm')
  .requiredOption('--hfov <degrees>', 'how wide its lens saw')
  .option('--triangles <count>', 'at the most: few where it is flat', '100000')
  .option('--behind', 'with what lies behind edges, as a second mesh')
  .option('--stretched', 'near and far are one surface, drawn out at edges, instead of cut there')
  .option('--points', 'points alone, one for every pixel (.ply)')
  .requiredOption('--out <file>', '.glb, .ply or .obj.zip')
  .description('make a mesh of a picture and its distances, in metres')
  .action(run(async () => (await import('./meshVerb')).mesh));
program
  .command('page')
  .requiredOption('--picture <file>', 'the picture')
  .requiredOption('--distance <map>', 'its distances in metres, .pfm')
  .requiredOption('--hfov <degrees>', 'how wide its lens saw')
  .option('--strength <per cent>', 'by how much the nearest passes the farthest, of the width', '2.5')
  .option('--stands <metres>', 'the distance that stands still; in the middle of the scene where not given')
  .option('--words <text>', 'what the page says to who does not see it; its title where not given')
  .option('--title <text>', 'its title; the name of the file where not given')
  .requiredOption('--out <file>', '.html')
  .description('make a page that moves with the pointer, the finger or a phone, in one file')
  .action(run(async () => (await import('./pageVerb')).page));
program
  .command('steady')
  .requiredOption('--clip <clip>', 'the clip that the maps belong to')
  .requiredOption('--depth <place>', 'its maps: a folder of numbered pictures, or a clip; of any size and rate')
  .option('--strength <strength>', '0..100', '70')
  .requiredOption('--out <place>', 'a folder for 16-bit PNGs, or a .webm without loss')
  .description('take flicker out of the maps of a clip, along what moves in it')
  .action(run(async () => (await import('./clipVerbs')).steady));
program
  .command('depth')
  .requiredOption('--plate <picture>', 'the picture that the map belongs to')
  .requiredOption('--map <file>', 'png, jpg, webp, avif, tif, exr, pfm, npy, a picture with depth in its alpha, or a photograph that carries depth')
  .requiredOption(
    '--out <file>',
    'nearness at the size of the plate, white near: .png (16-bit), .pfm, .tif, .exr (float), or .jpg (the plate with its depth inside)',
  )
  .option('--channel <name>', 'which channel of the map to read; the likeliest where not given')
  .option('--fit <fit>', 'stretch, fit or cover, where the shapes differ')
  .option('--turn-over <answer>', 'auto, yes or no: swap near and far', 'auto')
  .option('--near <metres>', 'distance of the near end, for .jpg and --metres')
  .option('--far <metres>', 'distance of the far end')
  .option('--metres', 'write distances in metres instead of nearness')
  .description('bring a depth map to its plate and say what it is')
  .action(run(async () => (await import('./verbs')).depth));
program
  .command('apply')
  .argument('[effect]', 'which one, as listed below')
  .requiredOption('--picture <file>', 'png, jpg, webp, avif, or pfm in linear light')
  .requiredOption('--distance <file>', 'one-channel pfm, metres')
  .requiredOption('--hfov <degrees>', 'horizontal field of view')
  .option('--set <name=value>', 'a setting; may be given again', (value: string, all: string[]) => [...all, value], [])
  .requiredOption('--out <file>', '.png (16-bit), .pfm (linear floats), .jpg or .webp')
  .option('--settings <file>', 'settings of the effect as JSON, with what is more than numbers: docs/settings.md')
  .option('--look <file>', 'several effects, as exported from Looks')
  .description('apply one effect, or all of a look')
  .addHelpText('after', listed)
  .action(run(async () => (await import('./apply')).apply));
program
  .command('matte')
  .requiredOption('--picture <file>', 'png, jpg, webp, avif, or pfm in linear light')
  .requiredOption('--distance <file>', 'one-channel pfm, metres')
  .requiredOption('--hfov <degrees>', 'horizontal field of view')
  .requiredOption('--from <metres>', 'the near end of the reach')
  .requiredOption('--to <metres>', 'its far end; inf for no end')
  .requiredOption('--out <file>', 'coverage 0..1: .pfm, .tif, .exr (float) or .png (16-bit)')
  .option('--colours <file>', 'the front’s own colours, linear light, premultiplied: .pfm')
  .description('a clean matte of what lies between two distances')
  .action(run(async () => (await import('./verbs')).matte));
program
  .command('view')
  .requiredOption('--picture <file>', 'png, jpg, webp, avif, or pfm in linear light')
  .requiredOption('--distance <file>', 'one-channel pfm, metres')
  .requiredOption('--hfov <degrees>', 'horizontal field of view')
  .requiredOption('--at <place>', 'X,Y,Z[,YAW,PITCH,ROLL] from where it was taken: metres right, down, forward; degrees right, up, clockwise')
  .requiredOption('--out <file>', '.pfm (linear floats), .png (16-bit), .jpg or .webp')
  .option('--depth <file>', 'distances from there, metres: .pfm, .tif or .exr')
  .description('see a picture from elsewhere')
  .action(run(async () => (await import('./verbs')).view));
program
  .command('render')
  .argument('<project>')
  .option('--shot <number>', 'counted from 1', '1')
  .option('--frame <number>', 'one frame, counted from 0')
  .option('--frames <range>', 'several, such as 0-95: --out is then a folder for PNGs, or a .mp4 or .webm')
  .option('--jobs <count>', 'so many processes share the frames', '1')
  .option('--network <file>', 'a network that its depth asks; may be given again', (value: string, all: string[]) => [...all, value], [])
  .requiredOption('--out <file>', '.png (16-bit), .pfm (linear floats), .jpg or .webp')
  .description('render a shot of a project file; several processes may share a range of frames')
  .action(run(async () => (await import('./renderVerb')).render));

try {
  await program.parseAsync();
} catch (error) {
  // commander has said what is wrong
  process.exitCode = (error as { exitCode?: number }).exitCode ? 1 : 0;
}
