import Button from '@mui/material/Button';
import type { Shot } from '../../../core/document/schema';
import { pictureNeed } from '../../../core/need/need';
import { engine } from '../../../engine/pool/engine';
import { ChoiceRow } from '../../controls/rows';
import { notifyError } from '../../notices/noticeStore';
import { useBringIn } from '../../bringIn/useBringIn';
import { changeShot } from '../../state/documentStore';
import { framesHold } from '../../state/files';
import { wholeSize } from '../../state/clipShot';
import { ProxyRow } from './ProxyRow';
import { momentOf } from '../../state/shotNow';

/** Which half of its frames is the picture. */
const HOLDS = [
  { value: 'whole', label: 'One picture' },
  { value: 'left', label: 'Picture left, depth right' },
  { value: 'right', label: 'Depth left, picture right' },
  { value: 'upper', label: 'Picture above depth' },
  { value: 'lower', label: 'Depth above picture' },
] as const;
type Holds = (typeof HOLDS)[number]['value'];

const fits = ({ plate }: Shot, value: Holds): boolean => {
  const { width, height } = wholeSize(plate);
  return value === 'whole' || (value === 'left' || value === 'right' ? width % 2 === 0 && width >= 64 : height % 2 === 0 && height >= 64);
};

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
      <ChoiceRow
        label="Frames hold"
        help="A clip may carry its depth beside the picture, or below it"
        value={plate.clip?.half ?? 'whole'}
        options={HOLDS.filter(({ value }) => fits(shot, value))}
        onChange={(value) => void framesHold(shot, value === 'whole' ? undefined : value).catch(notifyError)}
      />
      <ProxyRow shot={shot} />
      <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => void makeStill().catch(notifyError)}>
        Make a still of this frame
      </Button>
    </>
  );
}
