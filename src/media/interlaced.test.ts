import { expect, test } from '@jest/globals';
import { isInterlaced } from './interlaced';

/** Bits as text, and exp-Golomb numbers as the standard writes them. */
const ue = (v: number): string => {
  const bits = (v + 1).toString(2);
  return '0'.repeat(bits.length - 1) + bits;
};
const se = (v: number): string => ue(v > 0 ? 2 * v - 1 : -2 * v);

/** The record of a decoder with one sequence parameter set. */
function recordOf(profile: number, body: string): Uint8Array {
  const padded = `${body}1`.padEnd(Math.ceil((body.length + 1) / 8) * 8, '0');
  const plain = Array.from({ length: padded.length / 8 }, (_, i) => parseInt(padded.slice(8 * i, 8 * i + 8), 2));
  const kept: number[] = [];
  // two zeros are never followed by a small byte
  for (const byte of plain) {
    if (byte <= 3 && kept[kept.length - 1] === 0 && kept[kept.length - 2] === 0) kept.push(3);
    kept.push(byte);
  }
  const set = [0x67, profile, 0, 40, ...kept];
  return Uint8Array.from([1, profile, 0, 40, 0xff, 0xe1, set.length >> 8, set.length & 255, ...set, 1, 0, 0]);
}
const tail = (progressive: boolean, pictures = 4): string => ue(pictures) + '0' + ue(119) + ue(33) + (progressive ? '1' : '00') + '1' + '0' + '0';

test.each([true, false])('a plain profile, progressive %s', (progressive) => {
  expect(isInterlaced(recordOf(77, ue(0) + ue(4) + ue(0) + ue(6) + tail(progressive)))).toBe(!progressive);
});

test.each([true, false])('the high profile with scaling lists and a cycle of pictures, progressive %s', (progressive) => {
  const lists = '1' + '1' + se(-3) + Array.from({ length: 15 }, () => se(1)).join('') + '1' + se(-8) + '0'.repeat(6);
  const body = ue(0) + ue(1) + ue(0) + ue(0) + '0' + lists + ue(0) + ue(1) + '1' + se(-2) + se(1) + ue(2) + se(4) + se(-70000) + tail(progressive, 0);
  expect(isInterlaced(recordOf(100, body))).toBe(!progressive);
});

test('what cannot be read is not said to be', () => {
  expect(isInterlaced(new Uint8Array(0))).toBe(false);
  expect(isInterlaced(Uint8Array.from([1, 100, 0, 40, 0xff, 0xe1, 0, 5, 0x67, 100, 0, 40, 0]))).toBe(false);
});
