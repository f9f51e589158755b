import { describe, expect, it } from '@jest/globals';
import { sha256 } from './sha256';

describe('sha256', () => {
  const abc = new TextEncoder().encode('abc');
  const DIGEST = 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'; // FIPS 180-2, appendix B.1

  it('digests with the browser where that is granted', async () => {
    expect(await sha256(abc)).toBe(DIGEST);
  });

  it('digests to the same where the browser refuses, as on a page without TLS', async () => {
    const subtle = Object.getOwnPropertyDescriptor(Object.getPrototypeOf(globalThis.crypto), 'subtle')!;
    Object.defineProperty(globalThis.crypto, 'subtle', { value: undefined, configurable: true });
    try {
      expect(await sha256(abc)).toBe(DIGEST);
      expect(await sha256(new Uint8Array())).toBe('e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855');
    } finally {
      Object.defineProperty(globalThis.crypto, 'subtle', { ...subtle });
      delete (globalThis.crypto as { subtle?: SubtleCrypto }).subtle;
    }
    expect(await sha256(abc)).toBe(DIGEST);
  });
});
