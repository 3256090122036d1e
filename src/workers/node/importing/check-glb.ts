/** More vertices than any mesh that is read has; also what all that a scene shows may come to, each use of a mesh counted. */
const MOST_VERTICES = 20e6;
/** A sparse accessor without values of its own is zeros, however many: the file need not hold them. */
const MOST_SPARSE = 2e6;

const COMPONENT_BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };

/** Extensions that change where triangles are and that are read; others that a file says it needs are refused. */
const KNOWN = ['KHR_mesh_quantization', 'KHR_texture_transform', 'KHR_materials_unlit'];

type Json = Readonly<Record<string, unknown>>;
const listOf = (of: Json, name: string): readonly Json[] => {
  const found = of[name];
  return Array.isArray(found) ? found.map((v) => (typeof v === 'object' && v !== null ? (v as Json) : {})) : [];
};
const numberOf = (of: Json, name: string, otherwise: number): number => {
  const found = of[name];
  return typeof found === 'number' && Number.isFinite(found) ? found : otherwise;
};

/** The JSON of a .glb; a text says what is wrong. */
function jsonOf(bytes: Uint8Array): Json | string {
  if (bytes.length < 20) return 'it is too short';
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(0, true) !== 0x46546c67) return 'it does not begin with "glTF"';
  if (view.getUint32(4, true) !== 2) return `its version is ${String(view.getUint32(4, true))}; 2 is read`;
  const length = view.getUint32(12, true);
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + length > bytes.length) return 'its first part is not whole JSON';
  try {
    const json: unknown = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length)));
    return typeof json === 'object' && json !== null && !Array.isArray(json) ? (json as Json) : 'its JSON is not an object';
  } catch {
    return 'its first part is not JSON';
  }
}

/**
 * What is wrong with a .glb by its JSON, held against the bytes that are there; null when nothing is. Looked at before anything is allocated: 776 bytes
 * can claim 500 million vertices.
 */
export function wrongWithGlb(bytes: Uint8Array): string | null {
  const json = jsonOf(bytes);
  if (typeof json === 'string') return json;
  const required = Array.isArray(json['extensionsRequired']) ? json['extensionsRequired'].map(String) : [];
  const unknown = required.filter((e) => !KNOWN.includes(e));
  if (unknown.length > 0) return `it needs ${unknown.join(', ')}, which Ruddle does not read; export it without compression`;
  if (listOf(json, 'scenes').length === 0) return 'it has no scene';
  if (listOf(json, 'buffers').some((b) => typeof b['uri'] === 'string' && !b['uri'].startsWith('data:')))
    return 'it keeps its numbers in another file; export it as one .glb';
  if (listOf(json, 'buffers').some((b) => numberOf(b, 'byteLength', 0) > bytes.length))
    return 'a buffer claims more bytes than the file has';
  const views = listOf(json, 'bufferViews');
  const accessors = listOf(json, 'accessors');
  for (const [n, view] of views.entries()) {
    const end = numberOf(view, 'byteOffset', 0) + numberOf(view, 'byteLength', 0);
    const buffer = listOf(json, 'buffers')[numberOf(view, 'buffer', -1)];
    if (!buffer || end > numberOf(buffer, 'byteLength', 0)) return `its buffer view ${String(n)} lies outside of its buffer`;
  }
  for (const [n, accessor] of accessors.entries()) {
    const count = numberOf(accessor, 'count', -1);
    if (!Number.isInteger(count) || count < 0) return `its accessor ${String(n)} has no count`;
    const size = (COMPONENT_BYTES[numberOf(accessor, 'componentType', 0)] ?? 1) * (COMPONENTS[String(accessor['type'])] ?? 1);
    const index = accessor['bufferView'];
    if (count > MOST_VERTICES) return `its accessor ${String(n)} claims ${String(count)} values; ${String(MOST_VERTICES)} are the most`;
    if (typeof index !== 'number') {
      if (count > MOST_SPARSE) return `its accessor ${String(n)} claims ${String(count)} values that are not in the file`;
      continue;
    }
    const view = views[index];
    if (!view) return `its accessor ${String(n)} names a buffer view that is not there`;
    const step = Math.max(size, numberOf(view, 'byteStride', size));
    const needed = numberOf(accessor, 'byteOffset', 0) + (count > 0 ? (count - 1) * step + size : 0);
    if (needed > numberOf(view, 'byteLength', 0))
      return `its accessor ${String(n)} claims ${String(count)} values, more than its buffer view holds`;
  }
  const verticesOf = listOf(json, 'meshes').map((mesh) =>
    listOf(mesh, 'primitives').reduce((sum, primitive) => {
      const attributes = primitive['attributes'];
      const position = typeof attributes === 'object' && attributes !== null ? numberOf(attributes as Json, 'POSITION', -1) : -1;
      return sum + numberOf(accessors[position] ?? {}, 'count', 0);
    }, 0),
  );
  const shown = listOf(json, 'nodes').reduce((sum, node) => sum + (verticesOf[numberOf(node, 'mesh', -1)] ?? 0), 0);
  if (shown > MOST_VERTICES) return `its scene shows ${String(shown)} vertices; ${String(MOST_VERTICES)} are the most`;
  return null;
}
