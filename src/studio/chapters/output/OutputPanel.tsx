import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useState } from 'react';
import type { OutputSpec } from '../../../engine/messages/protocol';
import type { OutputSort } from '../../../formats/outputs/definition';
import { outputs } from '../../../formats/outputs/registry';
import { ChoiceRow, PanelHead, Section } from '../../controls/rows';
import { useShot } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { isTimed } from '../../../core/document/driven';
import { MadeSection } from './MadeSection';
import { ClipSection } from './ClipSection';
import { downloadProject } from './downloadProject';
import { exportStill } from './exports';
import { OutputNumbers } from './OutputNumbers';
import { PageSection } from './PageSection';
import { ShapeRow } from './ShapeRow';

/** The outputs of one sort: which, with what settings, and the button that makes the file. */
function OutputSection({ of, title, button, aside }: { of: OutputSort; title: string; button: string; aside?: string }) {
  const exporting = useSession((s) => s.exporting);
  const offered = outputs.filter((o) => o.of === of);
  const [kind, setKind] = useState(offered[0]!.kind);
  const [values, setValues] = useState<OutputSpec['values']>({});
  const [shape, setShape] = useState<string | null>(null);
  const output = offered.find((o) => o.kind === kind) ?? offered[0]!;
  return (
    <Section title={title} aside={aside && <span className="mono">{aside}</span>}>
      <ChoiceRow
        bare
        label={`Format of the ${of}`}
        value={output.kind}
        onChange={setKind}
        options={offered.map((o) => ({ value: o.kind, label: o.label }))}
      />
      {shape === null && <OutputNumbers params={output.params} values={values} onChange={setValues} />}
      {of === 'mesh' && <ShapeRow value={shape} onChange={setShape} />}
      <Note text={output.note} />
      <Button
        {...(of === 'picture' && { variant: 'contained' as const })}
        fullWidth
        disabled={exporting !== null}
        onClick={() => void exportStill(output, values, { shapeOf: shape })}
      >
        {button}
      </Button>
    </Section>
  );
}

export function OutputPanel() {
  const shot = useShot()!;
  const exporting = useSession((s) => s.exporting);
  const { width, height } = shot.settings.framing;
  return (
    <>
      <PanelHead title="Output" />
      {exporting && (
        <Section>
          <Box>
            <Box sx={{ display: 'flex', justifyContent: 'space-between', marginBottom: '6px' }}>
              <span>{exporting.what}</span>
              <span className="mono">{exporting.left === null ? '' : `${exporting.left.toFixed(1)} s left`}</span>
            </Box>
            <LinearProgress variant="determinate" value={100 * exporting.share} aria-label={exporting.what} />
          </Box>
          <Button fullWidth sx={{ marginTop: '8px' }} onClick={() => exporting.cancel()}>
            Cancel
          </Button>
        </Section>
      )}
      {!exporting && <MadeSection />}
      {isTimed(shot) && <ClipSection shot={shot} of="clip" title="Clip" button="Export clip" />}
      {isTimed(shot) && <ClipSection shot={shot} of="depth clip" title="Depth, frame by frame" button="Export depth clip" />}
      <OutputSection
        of="picture"
        title={isTimed(shot) ? 'Picture of this frame' : 'Picture'}
        button="Export picture"
        aside={`${width}×${height} px`}
      />
      <OutputSection of="depth" title="Depth" button="Export depth" />
      <OutputSection of="mesh" title="Mesh" button="Export mesh" />
      <PageSection key={shot.id} shot={shot} />
      <Section title="Project" last>
        <Note text="Every shot of this project with its pictures and maps, in one file that can be opened anywhere." />
        <Button fullWidth onClick={() => void downloadProject()}>
          Download project file
        </Button>
      </Section>
    </>
  );
}

const Note = ({ text }: { text: string }) => <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '7px 0' }}>{text}</Box>;
