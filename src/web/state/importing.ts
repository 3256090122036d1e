import { create } from 'zustand';
import type { GeometryInfo } from '#protocol';
import { api } from './api';

/** How far the imports of this page have come, by the id that the page gave them. */
export const useImportProgress = create<Readonly<Record<string, { readonly stage: string; readonly part: number | null }>>>(() => ({}));

/** An import that goes on: what comes of it, and how it is ended. */
export interface RunningImport {
  readonly id: string;
  readonly done: Promise<GeometryInfo>;
  readonly cancel: () => void;
}

let count = 0;

/** Sends a file to the server and has it read there. */
export function startImport(file: File): RunningImport {
  const id = `${String(Date.now())}-${String(++count)}`;
  const abort = new AbortController();
  const done = api.importGeometry(file, id, abort.signal).finally(() => {
    useImportProgress.setState(({ [id]: _over, ...others }) => others, true);
  });
  return {
    id,
    done,
    cancel: () => {
      abort.abort();
    },
  };
}
