import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { loops } from '../../../core/path/path';
import type { Shot } from '../../../core/document/schema';
import type { Size } from '../../../core/picture';
import { outputSides } from '../../../core/document/shotNumbers';
import { fitLongSide } from '../../../core/raster/resample';
import { finishedSize } from '../../../core/shot/chain';
import { engine } from '../../../engine/pool/engine';
import { clipBytes, clipOutputs, clipSize, namedClip, type ClipSort, type ClipSpec } from '../../../formats/outputs/clips';
import { NumberRow } from '../../controls/NumberRow';
import { ChoiceRow, Section } from '../../controls/rows';
import { notifyError } from '../../notices/noticeStore';
import { useSession } from '../../state/sessionStore';
import { player } from '../../state/playback';
import { clipOf, exportClip } from '../../state/clipExport';
import { OutputNumbers } from './OutputNumbers';
import { WordsField } from './WordsField';

/** Sizes that are offered, by their sides. */
const SIZES: readonly { readonly value: string; readonly label: string; readonly width: number; readonly height: number }[] = [
  { value: '16:9', label: '16:9, 1920×1080', width: 1920, height: 1080 },
  { value: '16:9s', label: '16:9, 1280×720', width: 1280, height: 720 },
  { value: '1:1', label: '1:1, 1080×1080', width: 1080, height: 1080 },
  { value: '4:5', label: '4:5, 1080×1350', width: 1080, height: 1350 },
  { value: '9:16', label: '9:16, 1080×1920', width: 1080, height: 1920 },
];

/** Long side of a clip that every encoder writes and every player plays, px: larger shots begin with it. */
const LARGEST_USUAL = 1920;

const bytes = (n: number): string =>
  n < 1e6 ? `${Math.max(1, Math.round(n / 1e3))} kB` : n < 1e9 ? `${(n / 1e6).toFixed(n < 1e7 ? 1 : 0)} MB` : `${(n / 1e9).toFixed(1)} GB`;
const time = (seconds: number): string => (seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`);

/** What is kept is made more carefully than what is played. */
const CAREFUL = 1.5;

interface SizeProps {
  readonly shot: Shot;
  readonly preset: string;
  readonly own: Size;
  readonly onPreset: (preset: string) => void;
  readonly onOwn: (own: Size) => void;
}

/** How large a clip becomes: one of usual sizes, or sides of one's own. */
function SizeRows({ shot: { settings }, preset, own, onPreset, onOwn }: SizeProps) {
  const whole = finishedSize(settings, settings.framing);
  const within = fitLongSide(settings.framing, LARGEST_USUAL);
  return (
    <>
      <ChoiceRow
        label="Size"
        value={preset}
        onChange={onPreset}
        options={[
          { value: 'shot', label: `As the shot, ${whole.width}×${whole.height}` },
          ...(within.width < settings.framing.width ? [{ value: 'within', label: `Smaller, ${within.width}×${within.height}` }] : []),
          ...SIZES,
          { value: 'own', label: 'Own' },
        ]}
      />
      {preset === 'own' && (
        <>
          <NumberRow param={outputSides.width} value={own.width} onChange={(width) => onOwn({ ...own, width })} />
          <NumberRow param={outputSides.height} value={own.height} onChange={(height) => onOwn({ ...own, height })} />
        </>
      )}
    </>
  );
}

/** The shot's range as a clip or as files: in which format and size, what it will weigh and take, and the button that makes it. */
export function ClipSection({ shot, of, title, button }: { shot: Shot; of: ClipSort; title: string; button: string }) {
  const exporting = useSession((s) => s.exporting);
  const { perPixel } = player.store();
  const offered = clipOutputs.filter((o) => o.of === of);
  const [kind, setKind] = useState(offered[0]!.kind);
  const [values, setValues] = useState<ClipSpec['values']>({});
  const { framing } = shot.settings;
  const within = fitLongSide(framing, LARGEST_USUAL);
  const [preset, setPreset] = useState(of === 'clip' && within.width < framing.width ? 'within' : 'shot');
  const [own, setOwn] = useState<Size>({ width: 1600, height: 900 });
  const output = namedClip(kind);
  const size = preset === 'own' ? own : preset === 'within' ? within : (SIZES.find((s) => s.value === preset) ?? framing);
  const [words, setWords] = useState('');
  const clip = clipOf(shot, kind, values, size, words);
  // the video of a page holds more than is seen
  const shown = clip.page ? clip : clip.picture;
  const frames = clip.to - clip.from + 1;
  const seconds = ((perPixel / 1000) * clip.picture.width * clip.picture.height * frames * CAREFUL) / engine().hands;
  const even = clipSize(kind, size.width, size.height);
  const round = of === 'clip' ? loops(shot.settings) : null;
  const intoFolder = output.making.by === 'files' && 'showDirectoryPicker' in globalThis;
  const pickFolder = async (): Promise<void> => {
    try {
      await exportClip(kind, values, size, '', await showDirectoryPicker({ mode: 'readwrite' }));
    } catch (error) {
      if (!(error instanceof DOMException && error.name === 'AbortError')) notifyError(error);
    }
  };
  return (
    <Section title={title} aside={<span className="mono">{`${shown.width}×${shown.height} px`}</span>}>
      <ChoiceRow label="Format" value={kind} onChange={setKind} options={offered.map((o) => ({ value: o.kind, label: o.label }))} />
      {of === 'clip' && <SizeRows shot={shot} preset={preset} own={own} onPreset={setPreset} onOwn={setOwn} />}
      <OutputNumbers params={output.params} values={values} onChange={setValues} />
      {output.page && <WordsField words={words} onChange={setWords} />}
      <Box data-testid={`${of.replace(' ', '-')}-note`} sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '7px 0' }}>
        {output.note} {frames} frames, {(frames / clip.fps).toFixed(1)} s, about {bytes(clipBytes(clip))}
        {perPixel > 0 ? `, in about ${time(seconds)}` : ''}.
        {even.width !== size.width || even.height !== size.height ? ' Sides are made even, as the format wants it.' : ''}
        {clip.sound ? ' With the sound of the plate.' : ''}
        {round === true ? ' It loops: its end meets its beginning.' : ''}
        {round === false ? ' Its end does not meet its beginning.' : ''}
      </Box>
      <Box sx={{ display: 'flex', gap: '6px' }}>
        <Button
          {...(of === 'clip' && { variant: 'contained' as const })}
          fullWidth
          disabled={exporting !== null}
          onClick={() => void exportClip(kind, values, size, words)}
        >
          {button}
        </Button>
        {intoFolder && (
          <Button disabled={exporting !== null} onClick={() => void pickFolder()} sx={{ whiteSpace: 'nowrap' }}>
            Into a folder…
          </Button>
        )}
      </Box>
    </Section>
  );
}
