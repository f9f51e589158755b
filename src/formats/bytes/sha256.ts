import { sha256 as digestByHand } from '@noble/hashes/sha2';
import { bytesToHex } from '@noble/hashes/utils';

/** SHA-256 of bytes that come in pieces. */
export function sha256Stream(): { update(bytes: Uint8Array): void; digest(): string } {
  const hash = digestByHand.create();
  return { update: (bytes) => void hash.update(bytes), digest: () => bytesToHex(hash.digest()) };
}

/** SHA-256 as 64 hexadecimal digits. A browser digests only on localhost and over TLS; elsewhere on a network it is done in script. */
export async function sha256(bytes: Uint8Array): Promise<string> {
  const subtle = globalThis.crypto.subtle as SubtleCrypto | undefined;
  if (!subtle) return bytesToHex(digestByHand(bytes));
  return bytesToHex(new Uint8Array(await subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)));
}
