import Button from '@mui/material/Button';
import type { Shot } from '../../../core/document/schema';
import { pictureNeed } from '../../../core/need';
import { engine } from '../../../engine/engine';
import { ChoiceRow } from '../../controls/rows';
import { notifyError } from '../../controls/noticeStore';
import { useBringIn } from '../../controls/useBringIn';
import { changeShot } from '../../state/documentStore';
import { ProxyRow } from './ProxyRow';
import { momentOf } from '../../state/previewLoop';

/** What can be done with a plate that is a clip: what comes after its end, and a still of the frame that is seen. */
export function ClipRows({ shot }: { shot: Shot }) {
  const bringIn = useBringIn();
  const { plate } = shot;
  const makeStill = async (): Promise<void> => {
    const need = pictureNeed(plate, momentOf(shot));
    const png = await engine().framePicture(need);
    await bringIn([new File([png], `${shot.name} frame ${need.frame}.png`, { type: 'image/png' })]);
  };
  return (
    <>
      <ChoiceRow
        label="After its end"
        help="Where the shot is longer than the clip"
        value={plate.clip?.beyond ?? 'hold'}
        options={[
          { value: 'hold', label: 'Last frame' },
          { value: 'loop', label: 'From the beginning' },
        ]}
        onChange={(beyond) => changeShot((s) => void (s.plate.clip && (s.plate.clip.beyond = beyond)))}
      />
      <ProxyRow shot={shot} />
      <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => void makeStill().catch(notifyError)}>
        Make a still of this frame
      </Button>
    </>
  );
}
