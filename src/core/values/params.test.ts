import { expect, test } from '@jest/globals';
import {
  choice,
  count,
  degrees,
  formatNumber,
  frames,
  fStop,
  metres,
  parseNumber,
  percent,
  readNumber,
  stops,
  toggle,
  trackPosition,
  valueAtTrack,
  valuesSchema,
  colour,
} from './params';
import { readSetting } from './readSetting';

const distance = metres({ label: 'Distance', min: 0.1, max: 3000, highest: Infinity, default: 2 });
const aperture = fStop({ label: 'Aperture', min: 0.7, max: 22, default: 2.8 });

test('typed numbers are read with their units', () => {
  expect(parseNumber(distance, '1.2m')).toBeCloseTo(1.2);
  expect(parseNumber(distance, '120 cm')).toBeCloseTo(1.2);
  expect(parseNumber(distance, '1,5')).toBeCloseTo(1.5);
  expect(parseNumber(distance, '2 km')).toBe(2000);
  expect(parseNumber(distance, '∞')).toBe(Infinity);
  expect(parseNumber(aperture, 'f/2')).toBe(2);
  expect(parseNumber(aperture, '5.6')).toBe(5.6);
  expect(parseNumber(degrees({ label: 'Turn', min: -180, max: 180, default: 0 }), '−12°')).toBe(-12);
});

test.each([
  ['1,500 m', 1500],
  ['1,500', 1500],
  ['12,345,678 mm', 12345.678],
  ['1,500.5', 1500.5],
  ['1.500,5 m', 1500.5],
  ["1'500 m", 1500],
  ['1 500 m', 1500],
  ['1\u202f500,25', 1500.25],
  ['1,50', 1.5],
  ['1,5 m', 1.5],
  ['0,25', 0.25],
  ['1.500 m', 1.5],
  ['12,34', 12.34],
  ['1e3', 1000],
  ['3/4 m', 0.75],
  ['1 1/2 m', 1.5],
  ['5\'6"', 1.6764],
  ['5′ 6″', 1.6764],
  ["5'6", 1.6764],
  ['5 ft 6 in', 1.6764],
  ["6'", 1.8288],
  ['6"', 0.1524],
  ['6 1/2 in', 0.1651],
  ['2 yd', 1.8288],
  ['1 m 20 cm', 1.2],
])('"%s" is %d m', (text, metresRead) => {
  expect(parseNumber(distance, text)).toBeCloseTo(metresRead, 9);
});

test.each(['1,50,0', '1.500.5', '1 50', '12 34 m', '1/0', '1,,5', '5 ft -2 in', "5'6'x", '1.5.00 m', '1 m 2'])('"%s" is no distance', (text) => {
  expect(parseNumber(distance, text)).toBeNull();
});

test('what cannot be is refused with the reason, not bent into something else', () => {
  const focus = metres({ label: 'Distance', min: 0.1, max: 3000, lowest: 0.01, highest: 1e6, default: 2 });
  const opening = fStop({ label: 'Aperture', min: 0.7, max: 22, lowest: 0.001, highest: 10000, default: 2.8 });
  for (const text of ['0', '-2 m', '0.001']) expect(readNumber(focus, text)).toEqual({ value: null, reason: 'Distance must be at least 0.01 m.' });
  expect(readNumber(opening, '0')).toMatchObject({ value: null, reason: expect.stringContaining('Aperture must be at least') });
  expect(readNumber(opening, 'f/0')).toMatchObject({ value: null });
  expect(readNumber(focus, '∞')).toMatchObject({ reason: 'Distance cannot be infinite: up to 1000000 m.' });
  expect(readNumber(focus, 'far')).toMatchObject({ reason: '“far” cannot be read. Give a number in m.' });
  expect(() => readSetting({ focus }, 'focus', '-2 m')).toThrow('"-2 m" is no value for focus.');
});

test('what is no number, or has a foreign unit, is not read', () => {
  for (const text of ['', 'far', '1.2.3', '3 px', '--4', '2 m m']) expect(parseNumber(distance, text)).toBeNull();
  expect(parseNumber(aperture, '∞')).toBeNull();
});

test('numbers are brought into what may be set', () => {
  expect(parseNumber(percent({ label: 'Opacity', min: 0, max: 100, default: 100 }), '140 %')).toBe(100);
  expect(parseNumber(count({ label: 'Blades', min: 0, max: 11, default: 0 }), '6.4')).toBe(6);
});

test('numbers are shown with their units', () => {
  expect(formatNumber(distance, 0.42)).toBe('0.42 m');
  expect(formatNumber(distance, 140.2)).toBe('140 m');
  expect(formatNumber(distance, Infinity)).toBe('∞');
  expect(formatNumber(aperture, 1.8)).toBe('f/1.8');
  expect(formatNumber(stops({ label: 'Boost', min: 0, max: 5, default: 0 }), 1.5)).toBe('+1.5 st');
});

test('what is shown can be typed back', () => {
  for (const v of [0.42, 1.25, 12.5, 140]) expect(parseNumber(distance, formatNumber(distance, v))).toBeCloseTo(v, 6);
});

test('the track is even in the logarithm where asked', () => {
  expect(trackPosition(distance, 0.1)).toBe(0);
  expect(trackPosition(distance, 3000)).toBe(1);
  expect(trackPosition(distance, Math.sqrt(0.1 * 3000))).toBeCloseTo(0.5);
  expect(valueAtTrack(distance, trackPosition(distance, 2.5))).toBeCloseTo(2.5, 2);
});

test('values that are missing or unreadable take their default', () => {
  const schema = valuesSchema({
    focus: distance,
    on: toggle({ label: 'On', default: true }),
    kind: choice({
      label: 'Kind',
      default: 'a',
      options: [
        { value: 'a', label: 'A' },
        { value: 'b', label: 'B' },
      ],
    }),
    tint: colour({ label: 'Tint', default: '#c9d2d8' }),
  });
  expect(schema.parse({ focus: 'near', kind: 'z', tint: 'red' })).toEqual({ focus: 2, on: true, kind: 'a', tint: '#c9d2d8' });
  expect(schema.parse({ focus: 0.01, on: false, kind: 'b' })).toMatchObject({ focus: 0.1, on: false, kind: 'b' });
});

test('settings of the command line name what is wrong', () => {
  expect(readSetting({ focus: distance }, 'focus', '3m')).toBe(3);
  expect(() => readSetting({ focus: distance }, 'fokus', '3')).toThrow('There is no setting "fokus".');
  expect(() => readSetting({ focus: distance }, 'focus', 'close')).toThrow('"close" is no value for focus.');
  expect(() => readSetting({ on: toggle({ label: 'On', default: true }) }, 'on', 'maybe')).toThrow('"maybe"');
});

test('frames are read in seconds too, by the rate of the shot; more than may be set is brought down and told', () => {
  const length = frames({ label: 'Length', min: 2, max: 480, lowest: 1, highest: 36000, default: 96 });
  expect(readNumber(length, '2 s', 24)).toEqual({ value: 48 });
  expect(readNumber(length, '1.5s', 30)).toEqual({ value: 45 });
  expect(readNumber(length, '48', 24)).toEqual({ value: 48 });
  expect(readNumber(length, '2 s')).toMatchObject({ value: null });
  expect(readNumber(length, '100000', 24)).toEqual({ value: 36000, limited: 'Length goes up to 36000 frames.' });
});
