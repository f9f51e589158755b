import { distanceOf, nearnessOf } from '../../core/depth/calibrate';
import { calibrationOf } from '../../core/document/defaults';
import type { EffectItem, Shot } from '../../core/document/schema';
import { apertureFor, lensBlur } from '../../core/effects/lens/lensBlur';
import type { FoundFace } from '../../core/estimate/face/faces';
import { addressOfFile, needKey, stillNeed } from '../../core/need/need';
import { renderLens } from '../../core/shot/frame';
import { layerMapNeed } from '../../core/shot/needs';
import { formatMetres } from '../../core/values/params';
import { engine } from '../../engine/pool/engine';
import { dismiss, notify } from '../notices/noticeStore';
import { amendShot, shotOf, useDocument, whileOpen } from './documentStore';
import { useSession } from './sessionStore';

/** How far the farthest parts are blurred, radius as a share of the picture's width. */
const FAR_BLUR = 0.012;

const blurOf = (shot: Shot): EffectItem | undefined => shot.settings.effects.find((e) => e.kind === lensBlur.kind);

/**
 * Focuses a shot that has just been made on its subject, with the lens so open that the farthest parts blur visibly: on the nearest large
 * thing as soon as a draft of the depth is there, again when the fine estimate is, and on the nearest face where one is found, or else the nearest person. Whatever
 * somebody has set meanwhile is left alone.
 */
export class FirstFocus {
  /** the map that was looked at last, and what was set after it */
  private seen: string | null = null;
  private set: Pick<EffectItem['values'], 'focus' | 'aperture'> | null = null;
  private looking = false;
  private said: number | null = null;
  private stop: () => void = () => undefined;

  close(): void {
    this.stop();
  }

  /** Looks whether there is something to do. */
  async update(): Promise<void> {
    const shot = shotOf(useDocument.getState());
    if (!shot?.fresh || this.looking) return;
    const estimate = shot.settings.layers[0];
    const need = estimate && layerMapNeed(estimate, shot.plate);
    const key = need && useSession.getState().given[needKey(need)];
    if (!key || key === this.seen) return;
    if (!this.untouched(shot)) {
      amendShot((s) => void delete s.fresh);
      return;
    }
    this.looking = true;
    this.seen = key;
    const open = whileOpen();
    try {
      const fine = key === needKey(need);
      const { subject, far } = await engine().subject(key);
      if (!open()) return;
      this.focusAt(subject.nearness, far, !this.set);
      if (fine) {
        await this.lookForFace(shot, key, far, open);
        if (open()) amendShot((s) => void delete s.fresh);
      }
    } catch {
      // a shot that is not focused by itself is focused by hand
    } finally {
      this.looking = false;
    }
    if (open()) void this.update();
  }

  private async lookForFace(shot: Shot, key: string, far: number, open: () => boolean): Promise<void> {
    const job = engine().findFace(addressOfFile(shot.plate), () => undefined);
    this.stop = () => job.cancel();
    const found = await job.done;
    if (!open()) return;
    const nearness = found ? await this.nearest(key, [found.points, ...found.others]) : await this.nearestPerson(shot, key);
    if (open() && nearness !== null) this.focusAt(nearness, far, true);
  }

  /** Nearness of the nearest person: one from behind, or far off, has no face to be found. */
  private async nearestPerson({ plate }: Shot, key: string): Promise<number | null> {
    const job = engine().personsFound(stillNeed(plate, plate.opaque), () => undefined);
    this.stop = () => job.cancel();
    const found = (await job.done) ?? [];
    return this.nearest(
      key,
      found.map((person) => [person]),
    );
  }

  /** Nearness of the nearest of several things, each by places in it; null where none of them is told. */
  private async nearest(key: string, things: readonly FoundFace['points'][]): Promise<number | null> {
    const nearness = await Promise.all(things.map((places) => engine().nearnessAt(key, places)));
    return nearness.reduce<number | null>((a, b) => (b === null || (a !== null && a > b) ? a : b), null);
  }

  /** Nobody has changed focus or aperture since. */
  private untouched(shot: Shot): boolean {
    const values = blurOf(shot)?.values;
    if (!values) return false;
    const expected = this.set ?? { focus: lensBlur.params.focus.default, aperture: lensBlur.params.aperture.default };
    return values.focus === expected.focus && values.aperture === expected.aperture;
  }

  private focusAt(raw: number, farRaw: number, say: boolean): void {
    const shot = shotOf(useDocument.getState());
    if (!shot || !this.untouched(shot)) return;
    const c = calibrationOf(shot.settings.calibration);
    const at = (value: number): number => distanceOf(nearnessOf(value, c), c);
    const lens = renderLens({ plate: shot.plate, settings: shot.settings, size: shot.settings.framing });
    const focus = Number(at(raw).toPrecision(3));
    const aperture = apertureFor(lens, focus, at(farRaw), FAR_BLUR * shot.settings.framing.width);
    this.set = { focus, aperture };
    amendShot((s) => Object.assign(blurOf(s)!.values, { focus, aperture }));
    if (!say) return;
    // one that was said of the draft is out of date
    if (this.said !== null) dismiss(this.said);
    this.said = notify({ kind: 'note', text: `In focus: ${formatMetres(focus)}.`, hint: 'Click another thing in the picture to move it.' });
  }
}
