import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useState } from 'react';
import { percent } from '../../../core/values/params';
import type { OutputSpec } from '../../../engine/protocol';
import { NumberRow } from '../../controls/NumberRow';
import { ChoiceRow, PanelHead, Section } from '../../controls/rows';
import { useShot } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { downloadProject, exportStill } from './exports';

type PictureFormat = Extract<OutputSpec, { kind: 'picture' }>['format'];
type DepthFormat = Extract<OutputSpec, { kind: 'depth' }>['format'];

const QUALITY = percent({ label: 'Quality', min: 30, max: 100, default: 92 });

const PICTURE_NOTES: Record<PictureFormat, string> = {
  png: 'Lossless, sRGB, 8 bits a channel.',
  png16: 'Lossless, sRGB, 16 bits a channel.',
  jpeg: 'Small, sRGB, no transparency.',
  webp: 'Smaller still, sRGB.',
};
const DEPTH_NOTES: Record<DepthFormat, string> = {
  png16: 'Nearness in 65 536 greys: white is the near end, black the far end.',
  pfm: 'Distance in metres as floats; infinity is kept.',
  tiff: 'Distance in metres as 32-bit floats.',
  exr: 'Distance in metres as 32-bit floats, in the channel Z.',
  jpeg: 'The finished picture, with its depth inside (XMP): 1/distance from the near to the far end.',
};

export function OutputPanel() {
  const shot = useShot()!;
  const exporting = useSession((s) => s.exporting);
  const [format, setFormat] = useState<PictureFormat>('png');
  const [quality, setQuality] = useState(92);
  const [depthFormat, setDepthFormat] = useState<DepthFormat>('png16');
  const { width, height } = shot.settings.framing;
  return (
    <>
      <PanelHead title="Output" />
      <Section title="Picture" aside={<span className="mono">{`${width}×${height} px`}</span>}>
        <ChoiceRow
          bare
          label="Format of the picture"
          value={format}
          onChange={setFormat}
          options={[
            { value: 'png', label: 'PNG 8' },
            { value: 'png16', label: 'PNG 16' },
            { value: 'jpeg', label: 'JPEG' },
            { value: 'webp', label: 'WebP' },
          ]}
        />
        {(format === 'jpeg' || format === 'webp') && <NumberRow param={QUALITY} value={quality} onChange={setQuality} />}
        <Note text={PICTURE_NOTES[format]} />
        <Button
          variant="contained"
          fullWidth
          disabled={exporting !== null}
          onClick={() => void exportStill({ kind: 'picture', format, quality: quality / 100 })}
        >
          Export picture
        </Button>
      </Section>
      <Section title="Depth">
        <ChoiceRow
          bare
          label="Format of the depth"
          value={depthFormat}
          onChange={setDepthFormat}
          options={[
            { value: 'png16', label: 'PNG 16' },
            { value: 'pfm', label: 'PFM' },
            { value: 'tiff', label: 'TIFF' },
            { value: 'exr', label: 'EXR' },
            { value: 'jpeg', label: 'JPEG' },
          ]}
        />
        <Note text={DEPTH_NOTES[depthFormat]} />
        <Button fullWidth disabled={exporting !== null} onClick={() => void exportStill({ kind: 'depth', format: depthFormat })}>
          Export depth
        </Button>
      </Section>
      <Section title="Project" last={exporting === null}>
        <Note text="Every shot of this project with its pictures and maps, in one file that can be opened anywhere." />
        <Button fullWidth onClick={() => void downloadProject()}>
          Download project file
        </Button>
      </Section>
      {exporting && (
        <Section last>
          <Box role="progressbar" aria-label={exporting.what} aria-valuenow={Math.round(100 * exporting.share)}>
            <Box sx={{ display: 'flex', justifyContent: 'space-between', marginBottom: '6px' }}>
              <span>{exporting.what}</span>
              <span className="mono">{exporting.left === null ? '' : `${exporting.left.toFixed(1)} s left`}</span>
            </Box>
            <LinearProgress variant="determinate" value={100 * exporting.share} aria-hidden="true" />
          </Box>
          <Button fullWidth sx={{ marginTop: '8px' }} onClick={() => exporting.cancel()}>
            Cancel
          </Button>
        </Section>
      )}
    </>
  );
}

const Note = ({ text }: { text: string }) => <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '7px 0' }}>{text}</Box>;
