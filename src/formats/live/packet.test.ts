import { describe, expect, test } from '@jest/globals';
import { OmbrageError } from '../../core/error';
import { seededRandom } from '../../core/random';
import { channelsOf, oscBundle, readOsc, writeOsc } from '../osc/osc';
import { HEADER, readPacket, writePacket, type LivePacket } from './packet';

const random = seededRandom(12);
const FUZZ = 10_000;

/** What is done with damaged bytes: they are read, or refused with a reason; nothing else is thrown. */
function survives(read: () => unknown): boolean {
  try {
    read();
    return true;
  } catch (error) {
    if (!(error instanceof OmbrageError)) throw error;
    return false;
  }
}

const damaged = (bytes: Uint8Array): Uint8Array => {
  const out = Uint8Array.from(bytes);
  for (let k = 0; k < 1 + 5 * random(); k++) out[Math.floor(random() * out.length)] = 256 * random();
  return random() < 0.3 ? out.subarray(0, Math.floor(random() * out.length)) : out;
};

const packet: LivePacket = {
  holds: 'alpha',
  form: 'raw',
  number: 4_000_000_000,
  at: 1.7e12 + 0.25,
  width: 6,
  height: 4,
  near: 1.5,
  far: 60,
  body: Uint8Array.from({ length: 96 }, (_, i) => i),
};

describe('pictures of a device', () => {
  test('come back as they were sent', () => {
    const read = readPacket(writePacket(packet));
    expect({ ...read, body: [...read.body] }).toEqual({ ...packet, body: [...packet.body] });
    const side = { ...packet, holds: 'side', form: 'png', body: new Uint8Array(5), near: 0, far: 0 } as const;
    expect(readPacket(writePacket(side))).toMatchObject({ holds: 'side', form: 'png', near: 0, far: 0 });
  });

  test.each([
    ['no header', new Uint8Array(10), 'broken header'],
    ['another version', writePacket(packet).fill(9, 4, 5), 'version 9'],
    ['an unknown form', writePacket(packet).fill(7, 6, 7), 'not known'],
    ['too few pixels', writePacket({ ...packet, body: new Uint8Array(12) }), 'another number of pixels'],
    ['no size', writePacket({ ...packet, width: 0 }), '0×4'],
    ['an odd width that is to be halved', writePacket({ ...packet, holds: 'side', width: 3, height: 8 }), 'odd'],
    ['a cut body', writePacket(packet).subarray(0, HEADER + 8), 'cut short'],
  ])('with %s are refused in words', (_, bytes, words) => expect(() => readPacket(bytes)).toThrow(words));

  test(`${FUZZ} damaged ones are read or refused`, () => {
    const whole = writePacket(packet);
    let read = 0;
    for (let k = 0; k < FUZZ; k++) read += Number(survives(() => readPacket(damaged(whole))));
    expect(read).toBeGreaterThan(0);
    expect(read).toBeLessThan(FUZZ);
  });

  test('ends that cannot be are none', () => {
    for (const [near, far] of [
      [5, 2],
      [-1, 4],
      [NaN, 3],
      [0, 3],
    ] as const)
      expect(readPacket(writePacket({ ...packet, near, far }))).toMatchObject({ near: 0, far: 0 });
  });
});

/** "/oscillator/4/frequency" with 440, byte by byte as the specification prints it. */
const PRINTED = [
  0x2f, 0x6f, 0x73, 0x63, 0x69, 0x6c, 0x6c, 0x61, 0x74, 0x6f, 0x72, 0x2f, 0x34, 0x2f, 0x66, 0x72, 0x65, 0x71, 0x75, 0x65, 0x6e, 0x63, 0x79, 0x00,
  0x2c, 0x66, 0x00, 0x00, 0x43, 0xdc, 0x00, 0x00,
];

describe('OSC', () => {
  test('the example of the specification reads, and is written, byte by byte', () => {
    expect(readOsc(Uint8Array.from(PRINTED))).toEqual([{ address: '/oscillator/4/frequency', values: [440] }]);
    expect([...writeOsc('/oscillator/4/frequency', 440)]).toEqual(PRINTED);
  });

  test('all types of arguments are passed over rightly, those that are numbers are told', () => {
    const bytes = new Uint8Array([
      ...[...'/a\0\0,isbhdTFNIcf\0\0\0\0'].map((c) => c.charCodeAt(0)),
      ...[0, 0, 0, 7],
      ...[104, 105, 0, 0],
      ...[0, 0, 0, 3, 1, 2, 3, 0],
      ...[0, 0, 0, 0, 0, 0, 0, 9],
      ...[0x40, 0x09, 0x21, 0xfb, 0x54, 0x44, 0x2d, 0x18],
      ...[0, 0, 0, 65],
      ...[0x3f, 0, 0, 0],
    ]);
    expect(readOsc(bytes)).toEqual([{ address: '/a', values: [7, 9, Math.PI, 1, 0, 1, 0.5] }]);
  });

  test('bundles give their messages in order, and 1000 in each other are refused without an overflow', () => {
    const inner = oscBundle([writeOsc('/b', 2), writeOsc('/c', 3)]);
    expect(readOsc(oscBundle([writeOsc('/a', 1), inner, writeOsc('/d', 4)])).map((m) => m.address)).toEqual(['/a', '/b', '/c', '/d']);
    let deep = writeOsc('/a', 1);
    for (let k = 0; k < 1000; k++) deep = oscBundle([deep]);
    expect(() => readOsc(deep)).toThrow('deep in each other');
  });

  test(`${FUZZ} damaged packets are read or refused`, () => {
    const whole = oscBundle([writeOsc('/blink', 0.5), oscBundle([writeOsc('/pose', 1, 2, 3)]), writeOsc('/mouth', 1)]);
    let read = 0;
    for (let k = 0; k < FUZZ; k++) read += Number(survives(() => readOsc(damaged(whole))));
    expect(read).toBeGreaterThan(0);
    expect(read).toBeLessThan(FUZZ);
  });

  test('10 000 channels are told by name, what is no number is not', () => {
    const many = readOsc(oscBundle(Array.from({ length: 10_000 }, (_, k) => writeOsc(`/c${k}`, k))));
    expect(Object.keys(channelsOf(many))).toHaveLength(10_000);
    expect(channelsOf(readOsc(oscBundle([writeOsc('/pose', 1, NaN, 3), writeOsc('/far', Infinity)])))).toEqual({ 'pose/1': 1, 'pose/3': 3 });
  });
});
