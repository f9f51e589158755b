import { expect, test } from '@jest/globals';
import { crc32 } from './crc32';

test('is the sum that everybody else gets', () => {
  expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926);
  expect(crc32(new Uint8Array(0))).toBe(0);
  expect(crc32(new Uint8Array(4))).toBe(0x2144df1c);
});
