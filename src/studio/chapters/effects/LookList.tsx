import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import DownloadIcon from '@mui/icons-material/FileDownloadOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import { useLiveQuery } from 'dexie-react-hooks';
import { useState } from 'react';
import { describeError } from '../../../core/error';
import { applyLook, lookOf, readLook, writeLook, type Look } from '../../../core/document/looks';
import { starterLooks } from '../../../core/document/starterLooks';
import type { Shot } from '../../../core/document/schema';
import { copyOf } from '../../../core/values/copy';
import { database } from '../../../store/database';
import { deleteLook, saveLook, savedLooks } from '../../../store/looks';
import { notify, notifyError } from '../../notices/noticeStore';
import { saveAs } from '../../../store/saveAs';
import { useFilePick } from '../../controls/useFilePick';
import { ToggleRow } from '../../controls/rows';
import { changeSettings, useDocument, useShot } from '../../state/documentStore';
import { useView } from '../../state/viewStore';
import { focusOf } from '../camera/judge';
import { effectStart } from './effectActions';
import { heightOf, SmallPicture, useSmallPictures } from './smallPictures';

/** Size of a small picture, px. */
const WIDE = 142;

/** A shot in a look, as small as it is shown. */
function withLook(shot: Shot, look: Look, asWritten: boolean): Shot {
  const settings = copyOf(shot.settings);
  applyLook(settings, { ...look, moves: [] }, effectStart(shot).subject, asWritten);
  return { ...shot, settings };
}

/** Looks to choose from, and what can be done with them: save, give to other shots, export, import, delete. */
export function LookList({ onDone }: { onDone: () => void }) {
  const shot = useShot();
  const saved = useLiveQuery(() => savedLooks(database()), []);
  const [asWritten, setAsWritten] = useState(false);
  const [giving, setGiving] = useState<Look | null>(null);
  if (!shot) return null;
  const looks = [...(saved ?? []).map((s) => ({ ...s, own: true })), ...starterLooks.map((look) => ({ id: look.look, look, own: false }))];
  const choose = (look: Look): void => {
    changeSettings((s) => applyLook(s, look, effectStart(shot).subject, asWritten));
    useView.getState().set({ selectedEffect: null, alone: null });
    onDone();
  };
  if (giving) return <Give look={giving} asWritten={asWritten} onDone={onDone} onBack={() => setGiving(null)} />;
  return (
    <Box sx={{ width: 4 * (WIDE + 8) + 20, maxWidth: 'calc(100vw - 24px)' }}>
      <SaveRow shot={shot} onGive={setGiving} />
      <Pictures looks={looks} shot={shot} asWritten={asWritten} onChoose={choose} />
      <Box sx={{ padding: '4px 14px 10px', borderTop: '1px solid var(--line)' }}>
        <ToggleRow
          label="Distances as they were saved"
          help="Otherwise they are scaled by how far this shot’s subject is"
          value={asWritten}
          onChange={setAsWritten}
        />
      </Box>
    </Box>
  );
}

function SaveRow({ shot, onGive }: { shot: Shot; onGive: (look: Look) => void }) {
  const [name, setName] = useState('');
  const current = (): Look => lookOf(shot.settings, name.trim() || shot.name, effectStart(shot).subject);
  const save = async (): Promise<void> => {
    await saveLook(database(), current());
    setName('');
  };
  const take = async (file: File): Promise<void> => {
    try {
      const { look, remarks } = readLook(JSON.parse(await file.text()), file.name);
      await saveLook(database(), look);
      if (remarks.length > 0) notify({ kind: 'note', text: `${file.name} was taken in part.`, hint: remarks.join(' ') });
    } catch (error) {
      if (error instanceof SyntaxError)
        notify({ kind: 'error', text: `${file.name} holds no look.`, hint: 'Choose a file that was exported from Looks.' });
      else notifyError(error);
    }
  };
  const pick = useFilePick('File of a look', '.json', (file) => void take(file));
  return (
    <Box sx={{ display: 'flex', gap: '6px', padding: '10px 12px', borderBottom: '1px solid var(--line)' }}>
      <InputBase
        value={name}
        placeholder={`This shot’s look, as “${shot.name}”`}
        inputProps={{ 'aria-label': 'Name of the look', maxLength: 200 }}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => e.key === 'Enter' && void save().catch(notifyError)}
        sx={{ flex: 1 }}
      />
      <Button sx={{ height: 26 }} onClick={() => void save().catch(notifyError)}>
        Save
      </Button>
      <Button sx={{ height: 26 }} title="To other shots of this project" onClick={() => onGive(current())}>
        Give to shots
      </Button>
      <Button sx={{ height: 26 }} onClick={() => pick.open()}>
        Import…
      </Button>
      {pick.input}
    </Box>
  );
}

interface Listed {
  readonly id: string;
  readonly look: Look;
  readonly own: boolean;
}

/** Every look as a small picture of the shot, made one after the other. */
function Pictures({
  looks,
  shot,
  asWritten,
  onChoose,
}: {
  looks: readonly Listed[];
  shot: Shot;
  asWritten: boolean;
  onChoose: (look: Look) => void;
}) {
  const size = { width: WIDE, height: heightOf(shot, WIDE, 104) };
  const pictures = useSmallPictures(
    looks.map((l) => l.id),
    size,
    (id) => withLook(shot, looks.find((l) => l.id === id)!.look, asWritten),
    `${looks.map((l) => l.id).join()} ${asWritten}`,
  );
  return (
    <Box
      sx={{ display: 'grid', gridTemplateColumns: `repeat(auto-fill, ${WIDE}px)`, gap: '8px', padding: '12px', maxHeight: 470, overflowY: 'auto' }}
    >
      {looks.map((listed) => (
        <Box key={listed.id} sx={{ position: 'relative' }}>
          <ButtonBase
            aria-label={`Look: ${listed.look.look}`}
            onClick={() => onChoose(listed.look)}
            sx={{
              display: 'block',
              width: '100%',
              textAlign: 'left',
              borderRadius: '4px',
              border: '1px solid var(--line2)',
              overflow: 'hidden',
              '&:hover, &:focus-visible': { borderColor: 'var(--paper)' },
            }}
          >
            <SmallPicture of={pictures} name={listed.id} />
            <Box sx={{ padding: '3px 7px 4px', fontSize: 12 }}>{listed.look.look}</Box>
          </ButtonBase>
          {listed.own && <OwnActs listed={listed} />}
        </Box>
      ))}
    </Box>
  );
}

/** What can be done with a look of one's own: at the corner of its picture. */
const OwnActs = ({ listed: { id, look } }: { listed: Listed }) => (
  <Box sx={{ position: 'absolute', right: 2, bottom: 1 }}>
    <IconButton
      aria-label={`Export ${look.look}`}
      title="Export"
      sx={{ padding: '3px', '& svg': { fontSize: 15 } }}
      onClick={() => saveAs(new Blob([writeLook(look)]), `${look.look}.look.json`)}
    >
      <DownloadIcon />
    </IconButton>
    <IconButton
      aria-label={`Delete ${look.look}`}
      title="Delete"
      sx={{ padding: '3px', '& svg': { fontSize: 15 } }}
      onClick={() => {
        void deleteLook(database(), id).catch((e: unknown) => notify({ kind: 'error', text: describeError(e), hint: '' }));
        notify({
          kind: 'note',
          text: `The look “${look.look}” is deleted.`,
          hint: '',
          actions: [{ label: 'Take it back', run: () => void saveLook(database(), look) }],
        });
      }}
    >
      <DeleteIcon />
    </IconButton>
  </Box>
);

/** Several shots at once get a look. */
function Give({ look, asWritten, onDone, onBack }: { look: Look; asWritten: boolean; onDone: () => void; onBack: () => void }) {
  const project = useDocument((s) => s.project);
  const shotId = useDocument((s) => s.shotId);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const others = project?.shots.filter((s) => s.id !== shotId) ?? [];
  const give = (): void => {
    useDocument.getState().change((p) => {
      for (const s of p.shots)
        if (chosen.includes(s.id)) {
          applyLook(s.settings, look, focusOf(s.settings) ?? 2 * s.settings.calibration.near, asWritten);
        }
    });
    notify({
      kind: 'note',
      text: `${chosen.length === 1 ? 'One shot has' : `${chosen.length} shots have`} the look “${look.look}” now.`,
      hint: 'Undo takes it back.',
    });
    onDone();
  };
  return (
    <Box sx={{ width: 320, padding: '12px 14px' }}>
      <Box component="h2" sx={{ margin: '0 0 6px', fontSize: 13, fontWeight: 600 }}>
        Give “{look.look}” to
      </Box>
      {others.length === 0 && <Box sx={{ color: 'var(--mute)' }}>This project has no other shot.</Box>}
      <Box sx={{ maxHeight: 300, overflowY: 'auto' }}>
        {others.map((s) => (
          <FormControlLabel
            key={s.id}
            label={s.name}
            sx={{ display: 'flex' }}
            control={
              <Checkbox
                size="small"
                checked={chosen.includes(s.id)}
                onChange={(_, on) => setChosen(on ? [...chosen, s.id] : chosen.filter((id) => id !== s.id))}
              />
            }
          />
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: '6px', justifyContent: 'flex-end', marginTop: '8px' }}>
        <Button onClick={onBack}>Back</Button>
        <Button variant="contained" disabled={chosen.length === 0} onClick={give}>
          Give
        </Button>
      </Box>
    </Box>
  );
}
