/**
 * How deep lists and objects lie in each other in a JSON text. Looked at before it is parsed: whatever walks the value afterwards goes as deep as that on
 * its stack. Of a text that is no JSON it means nothing.
 */
export function nesting(text: string): number {
  let depth = 0;
  let most = 0;
  let quoted = false;
  for (let n = 0; n < text.length; n++) {
    const c = text.charCodeAt(n);
    if (quoted) {
      if (c === 92) n++;
      else if (c === 34) quoted = false;
    } else if (c === 34) quoted = true;
    else if (c === 91 || c === 123) most = Math.max(most, ++depth);
    else if (c === 93 || c === 125) depth--;
  }
  return most;
}
