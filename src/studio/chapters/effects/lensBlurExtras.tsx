import { memo } from 'react';
import Box from '@mui/material/Box';
import { hueNearness } from '../../../core/depth/calibrate';
import { rulerDistance } from '../../../core/depth/ruler';
import { calibrationOf } from '../../../core/document/defaults';
import type { EffectItem, Shot } from '../../../core/document/schema';
import { lensBlur, lensBlurRadius, type LensBlurValues } from '../../../core/effects/lens/lensBlur';
import { apertureOutline } from '../../../core/kernels/aperture';
import { nearnessHex } from '../../../core/raster/colour';
import { renderLens } from '../../../core/shot/frame';
import { formatMetres, valuesSchema } from '../../../core/values/params';
import { useSettled } from '../../controls/useSettled';
import { Chart } from '../../controls/Chart';
import type { EffectExtras } from './extras';
import { RackFocus } from './RackFocus';

const POINTS = 49;

/** Blur radius by distance along the map's own spacing. */
const BlurChart = memo(function BlurChart({ shot, stored }: { shot: Shot; stored: EffectItem['values'] }) {
  const values = valuesSchema(lensBlur.params).parse(stored);
  const c = calibrationOf(shot.settings.calibration);
  const ruler = { near: c.near, far: c.far, spacing: c.spacing };
  const lens = renderLens({ plate: shot.plate, settings: shot.settings, size: shot.settings.framing });
  const blur = Array.from({ length: POINTS }, (_, i) => {
    const x = i / (POINTS - 1);
    const z = rulerDistance(ruler, x);
    return { x, y: Math.abs(lensBlurRadius(values, lens, 1, z)), colour: nearnessHex(hueNearness(z, c)) };
  });
  const top = Math.max(1, ...blur.map((p) => p.y));
  const yMax = top * 1.08;
  return (
    <Chart
      label={`Blur across depth, up to ${top.toFixed(1)} px`}
      points={blur}
      yMax={yMax}
      xTicks={[0, 0.5, 1].map((at) => ({ at, text: formatMetres(Number(rulerDistance(ruler, at).toPrecision(2))) }))}
      yTicks={[
        { at: 0, text: '0 px' },
        { at: top / 2, text: `${(top / 2).toFixed(1)}` },
        { at: top, text: `${top.toFixed(1)} px` },
      ]}
    />
  );
});

/** The picture and the slider come first. */
function SettledChart({ shot, stored }: { shot: Shot; stored: EffectItem['values'] }) {
  return <BlurChart shot={useSettled(shot)} stored={useSettled(stored)} />;
}

const ApertureShape = memo(function ApertureShape({ blades, rounding, turn }: Pick<LensBlurValues, 'blades' | 'rounding' | 'turn'>) {
  const outline = apertureOutline({ blades, rounding: rounding / 100, turn: (turn * Math.PI) / 180 }, 240);
  const points = Array.from(
    { length: outline.length / 2 },
    (_, i) => `${(28 * outline[2 * i]!).toFixed(2)},${(28 * outline[2 * i + 1]!).toFixed(2)}`,
  );
  return (
    <Box sx={{ display: 'flex', justifyContent: 'center', padding: '2px 0 6px' }}>
      <svg width={60} height={60} viewBox="-30 -30 60 60" role="img" aria-label="Shape of the aperture">
        <path d={`M${points.join('L')}Z`} fill="var(--paper)" opacity={0.9} />
      </svg>
    </Box>
  );
});

export const lensBlurExtras: EffectExtras = (shot, stored, item) => {
  const values = valuesSchema(lensBlur.params).parse(stored);
  return {
    sections: {
      'Aperture shape': { before: <ApertureShape blades={values.blades} rounding={values.rounding} turn={values.turn} /> },
    },
    middle: { title: 'Rack focus', content: <RackFocus item={item} param="focus" /> },
    foot: { title: 'Blur across depth', content: <SettledChart shot={shot} stored={stored} /> },
  };
};
