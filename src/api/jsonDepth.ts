/**
 * How deep lists and objects of a JSON text are nested, without reading it.
 * @example `jsonDepth('{"a":[1,"]["]}')` is 2
 */
export function jsonDepth(text: string): number {
  let depth = 0;
  let deepest = 0;
  let inText = false;
  for (let i = 0; i < text.length; i++) {
    const sign = text.charCodeAt(i);
    if (inText) {
      if (sign === 0x5c) i += 1;
      else if (sign === 0x22) inText = false;
    } else if (sign === 0x22) inText = true;
    else if (sign === 0x5b || sign === 0x7b) deepest = Math.max(deepest, ++depth);
    else if (sign === 0x5d || sign === 0x7d) depth -= 1;
  }
  return deepest;
}
