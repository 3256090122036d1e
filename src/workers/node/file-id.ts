/** Identifier of a frame's file: from the run's key, so that the same run writes the same bytes. */
export const frameFileId = (key: string, part: number, frame: number): string => {
  const tail = (part * 2 ** 32 + (frame >>> 0)).toString(16).padStart(12, '0');
  return `${key.slice(0, 8)}-${key.slice(8, 12)}-4${key.slice(13, 16)}-8${key.slice(17, 20)}-${tail}`;
};
