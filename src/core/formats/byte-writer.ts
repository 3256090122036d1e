/** Little-endian bytes in chunks, so that nothing is copied when it grows. */
export class ByteWriter {
  readonly #chunks: Uint8Array[] = [];
  #chunk = new Uint8Array(1 << 16);
  #view = new DataView(this.#chunk.buffer);
  #used = 0;
  #before = 0;

  get position(): number {
    return this.#before + this.#used;
  }

  #room(bytes: number): void {
    if (this.#used + bytes <= this.#chunk.length) return;
    this.#flush();
    if (bytes > this.#chunk.length) {
      this.#chunk = new Uint8Array(bytes);
      this.#view = new DataView(this.#chunk.buffer);
    }
  }

  #flush(): void {
    if (this.#used === 0) return;
    this.#chunks.push(this.#chunk.subarray(0, this.#used));
    this.#before += this.#used;
    this.#chunk = new Uint8Array(1 << 16);
    this.#view = new DataView(this.#chunk.buffer);
    this.#used = 0;
  }

  u8(v: number): void {
    this.#room(1);
    this.#chunk[this.#used++] = v;
  }
  u32(v: number): void {
    this.#room(4);
    this.#view.setUint32(this.#used, v, true);
    this.#used += 4;
  }
  i32(v: number): void {
    this.u32(v >>> 0);
  }
  i64(v: number): void {
    this.#room(8);
    this.#view.setBigInt64(this.#used, BigInt(v), true);
    this.#used += 8;
  }
  f32(v: number): void {
    this.#room(4);
    this.#view.setFloat32(this.#used, v, true);
    this.#used += 4;
  }
  f64(v: number): void {
    this.#room(8);
    this.#view.setFloat64(this.#used, v, true);
    this.#used += 8;
  }
  /** Copied: the caller may use the array again. */
  bytes(data: Uint8Array): void {
    this.#room(data.length);
    this.#chunk.set(data, this.#used);
    this.#used += data.length;
  }
  /** Length in front, no terminator. */
  text(s: string): void {
    const data = utf8(s);
    this.u32(data.length);
    this.bytes(data);
  }

  /** Everything written, with 64-bit positions put in afterwards. */
  finish(patches: readonly { readonly at: number; readonly value: number }[] = []): Uint8Array<ArrayBuffer> {
    this.#flush();
    const out = new Uint8Array(this.#before);
    let at = 0;
    for (const c of this.#chunks) {
      out.set(c, at);
      at += c.length;
    }
    const view = new DataView(out.buffer);
    for (const p of patches) view.setBigInt64(p.at, BigInt(p.value), true);
    return out;
  }
}

/** UTF-8 bytes of a text (the core has no TextEncoder). */
export function utf8(s: string): Uint8Array {
  const out: number[] = [];
  for (const c of s) {
    const p = c.codePointAt(0) ?? 0;
    if (p < 0x80) out.push(p);
    else if (p < 0x800) out.push(0xc0 | (p >> 6), 0x80 | (p & 63));
    else if (p < 0x10000) out.push(0xe0 | (p >> 12), 0x80 | ((p >> 6) & 63), 0x80 | (p & 63));
    else out.push(0xf0 | (p >> 18), 0x80 | ((p >> 12) & 63), 0x80 | ((p >> 6) & 63), 0x80 | (p & 63));
  }
  return Uint8Array.from(out);
}
