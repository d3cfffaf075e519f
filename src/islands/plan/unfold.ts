const [TAB, LINE, RETURN, SPACE] = [9, 10, 13, 32];

/**
 * The text of a calendar file with its folded lines put together again (RFC 5545, 3.1). A fold may lie within a sign of
 * several bytes, so they are put together before they are read as UTF-8.
 */
export function unfolded(bytes: Uint8Array): string {
  const out = new Uint8Array(bytes.length);
  let length = 0;
  for (let i = 0; i < bytes.length; i++) {
    const line = bytes[i] === RETURN && bytes[i + 1] === LINE ? 2 : bytes[i] === LINE ? 1 : 0;
    const after = bytes[i + line];
    if (line > 0 && (after === SPACE || after === TAB)) {
      i += line;
      continue;
    }
    out[length++] = bytes[i] as number;
  }
  return new TextDecoder().decode(out.subarray(0, length));
}
