/**
 * A fresh idempotency key: 128 random bits as hexadecimal. Not `crypto.randomUUID`, which browsers hide on plain http,
 * as a workshop's own network often is.
 */
export function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, '0')).join('');
}
