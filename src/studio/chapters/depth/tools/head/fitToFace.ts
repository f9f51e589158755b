import { marksOfFace, poseOfFace } from '../../../../../core/depth/layers/head/face';
import { placeHead, shapeOf } from '../../../../../core/depth/layers/head/head';
import type { Layer, Shot } from '../../../../../core/document/schema';
import { addressOfFile } from '../../../../../core/need/need';
import { engine } from '../../../../../engine/pool/engine';
import { progressOf, useSession } from '../../../../state/sessionStore';
import { notify, notifyError } from '../../../../notices/noticeStore';
import { layerStart } from '../../../../picture/probe';
import { changeLayer, isLocked, layerById } from '../../layerActions';
import { fitToMarks, headContent, headValues, valuesOfPose } from './HeadOverlay';

/** Looks for a face in the plate and lays the head's marks on it, in one step. Says so where there is none. */
export async function fitToFace(shot: Shot, layerId: string): Promise<void> {
  const set = useSession.getState().set;
  const job = engine().findFace(addressOfFile(shot.plate), (share) => progress.report(share));
  let canceled = false;
  const cancel = (): void => {
    canceled = true;
    job.cancel();
  };
  const progress = progressOf('Looking for a face', cancel, (estimating) => set({ estimating }));
  try {
    const found = await job.done;
    const layer = layerById(layerId);
    if (canceled || !layer || isLocked(layer)) return;
    if (!found) {
      notify({ kind: 'note', text: 'No face was found in this picture.', hint: 'Drag the marks onto it: the head follows all the same.' });
      return;
    }
    layHead(shot, layer, found.points);
    if (found.faces > 1)
      notify({
        kind: 'note',
        text: `${found.faces} faces were found; the head is fitted to the largest.`,
        hint: 'Drag its marks to fit it to another.',
      });
  } catch (error) {
    notifyError(error);
  } finally {
    progress.end();
  }
}

function layHead(shot: Shot, layer: Layer, points: Parameters<typeof marksOfFace>[0]): void {
  const aspect = shot.plate.width / shot.plate.height;
  const content = headContent(layer);
  const marks = marksOfFace(points);
  const pose = valuesOfPose(poseOfFace(marks, shapeOf(headValues(layer)), aspect));
  const turned = { ...layer, values: { ...layer.values, ...pose } };
  const place = placeHead(headValues(turned), layerStart(shot, useSession.getState().preview));
  changeLayer(layer.id, (l) => {
    Object.assign(l.values, pose, fitToMarks(turned, marks, aspect), place);
    l.content = { ...content, marks };
  });
}
