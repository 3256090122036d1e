export type FileUnit = 'metre' | 'centimetre' | 'millimetre' | 'foot' | 'inch';

export const FILE_UNITS: Readonly<Record<FileUnit, { readonly title: string; readonly metres: number }>> = {
  metre: { title: 'metres', metres: 1 },
  centimetre: { title: 'centimetres', metres: 0.01 },
  millimetre: { title: 'millimetres', metres: 0.001 },
  foot: { title: 'feet', metres: 0.3048 },
  inch: { title: 'inches', metres: 0.0254 },
};

/** Things of a set are about so large, metres. */
const USUAL = [0.2, 40] as const;

/**
 * Unit of a file whose largest side has so many units: of those that make it as large as things of a set are, the first; glTF is in metres by its
 * standard. A guess: the user is asked.
 */
export function guessUnit(largest: number, file: string): FileUnit {
  if (/\.gl(b|tf)$/i.test(file)) return 'metre';
  const units = ['metre', 'centimetre', 'millimetre'] as const;
  return (
    units.find((u) => largest * FILE_UNITS[u].metres >= USUAL[0] && largest * FILE_UNITS[u].metres <= USUAL[1]) ??
    (largest > USUAL[1] ? 'millimetre' : 'metre')
  );
}
