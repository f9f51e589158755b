import { newPlane, type Plane } from '../../picture';
import { pushPull } from '../../raster/pushPull';
import { percent, toggle } from '../../values/params';
import { defineCleanup } from './definition';

const missingShare = (map: Plane): number => {
  let missing = 0;
  for (const v of map.data) if (v !== v) missing++;
  return (100 * missing) / map.data.length;
};

/** Fills what a map does not know from its surroundings (push-pull: Gortler 1996). */
export const fillHoles = defineCleanup({
  kind: 'fill-holes',
  label: 'Fill holes',
  help: 'Fills what the map does not know from round about',
  params: {
    black: toggle({ label: 'Black is a hole', default: false, help: 'Sensors write black where they saw nothing' }),
    below: percent({ label: 'Up to', min: 0, max: 10, highest: 100, default: 0.4, decimals: 1, help: 'Grey up to which black counts as a hole' }),
  },
  apply({ map, params }) {
    if (!params.black) return pushPull(map);
    const holes = newPlane(map.width, map.height);
    for (let i = 0; i < map.data.length; i++) holes.data[i] = map.data[i]! <= params.below / 100 ? NaN : map.data[i]!;
    return pushPull(holes);
  },
  figure(before, after) {
    let changed = 0;
    for (let i = 0; i < before.data.length; i++) if (before.data[i] !== after.data[i]) changed++;
    const share = Math.max(missingShare(before), (100 * changed) / before.data.length);
    return `${share.toFixed(1)} % filled`;
  },
});
