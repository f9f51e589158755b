import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { Shot } from '../../../core/document/schema';
import type { OutputSpec } from '../../../engine/messages/protocol';
import { namedOutput } from '../../../formats/outputs/registry';
import { embedding } from '../../../formats/page/embedding';
import { fileName } from '../../../store/saveAs';
import { Section } from '../../controls/rows';
import { notify, notifyError } from '../../notices/noticeStore';
import { useSession } from '../../state/sessionStore';
import { effectStart } from '../effects/effectActions';
import { exportStill } from './exports';
import { OutputNumbers } from './OutputNumbers';
import { PagePreview } from './PagePreview';
import { WordsField } from './WordsField';

/** The shot as a page that moves with the pointer: how strongly, what stands still, what it says to who does not see it; seen before it is saved. */
export function PageSection({ shot }: { shot: Shot }) {
  const exporting = useSession((s) => s.exporting);
  const output = namedOutput('page');
  const [values, setValues] = useState<OutputSpec['values']>({});
  const [words, setWords] = useState('');
  const [preview, setPreview] = useState(false);
  // what the shot is about stands still, until somebody says otherwise
  const given = { stands: Number(effectStart(shot).subject.toPrecision(3)), ...values };
  const { width, height } = shot.settings.framing;
  const snippet = (): void => {
    navigator.clipboard
      .writeText(embedding(`${fileName(shot.name)}.html`, words || shot.name, { width, height }))
      .then(() => notify({ kind: 'note', text: 'The lines that show the page on a site are copied.', hint: 'Put the file beside that page.' }))
      .catch(notifyError);
  };
  return (
    <Section title="Page">
      <OutputNumbers params={output.params} values={given} onChange={setValues} />
      <WordsField words={words} onChange={setWords} />
      <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '7px 0' }}>{output.note}</Box>
      <Box sx={{ display: 'flex', gap: '6px' }}>
        <Button fullWidth disabled={exporting !== null} onClick={() => setPreview(true)}>
          Try it
        </Button>
        <Button fullWidth disabled={exporting !== null} onClick={() => void exportStill(output, given, { words })}>
          Export page
        </Button>
      </Box>
      <Button fullWidth sx={{ marginTop: '6px' }} onClick={snippet}>
        Copy the lines that embed it
      </Button>
      {preview && <PagePreview shot={shot} values={given} words={words} onClose={() => setPreview(false)} />}
    </Section>
  );
}
