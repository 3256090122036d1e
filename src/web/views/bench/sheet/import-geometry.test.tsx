import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import type { GeometryInfo } from '#protocol';
import { useImportProgress } from '#web/state';
import { type Asked, serve } from '#web/testing';
import { sheet, showOnBench } from '../for-tests';
import { ImportDialog, importGeometryFiles } from './import-geometry';

const HASH = 'a'.repeat(64);
const info = (changes: Partial<GeometryInfo> = {}): GeometryInfo => ({
  hash: HASH,
  file: 'lid.stl',
  kind: 'mesh',
  bytes: 120_000,
  triangles: 2400,
  unit: 'millimetre',
  size: [400, 300, 200],
  seconds: 0,
  first: 1,
  sheet: false,
  extent: { min: [-200, -150, -100], max: [200, 150, 100] },
  centre: [0, 0, 100],
  notes: [],
  ...changes,
});
const file = new File(['solid lid'], 'lid.stl');
const dialog = page.getByRole('dialog');
const button = (name: string): ReturnType<typeof page.getByRole> => page.getByRole('button', { name, exact: true });

/** Begins an import whose answer the test gives. */
async function begin(): Promise<{
  answer: (info: GeometryInfo) => void;
  refuse: (message: string) => void;
  /** The id that the page gave its import. */
  asked: () => string;
  done: Promise<void>;
}> {
  let id = '';
  let answer: (i: GeometryInfo) => void = () => undefined;
  let refuse: (message: string) => void = () => undefined;
  serve({
    'POST /geometry': (asked: Asked, init: RequestInit) =>
      new Promise((resolve, reject) => {
        id = asked.query.get('import') ?? '';
        answer = resolve;
        refuse = (message) => {
          // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- an answer of the server, not an error of this page
          reject({ tag: 'geometry-invalid', message, fields: {}, cause: null });
        };
        init.signal?.addEventListener('abort', () => {
          reject(new DOMException('ended', 'AbortError'));
        });
      }),
  });
  await showOnBench(<ImportDialog />);
  const done = importGeometryFiles([file], 'solids');
  return { answer: (i) => answer(i), refuse: (m) => refuse(m), asked: () => id, done };
}

describe('importing geometry', () => {
  it('says how far the server is, then what is in the file, in metres as the unit and the axes are chosen', async () => {
    const { answer, asked, done } = await begin();
    await expect.element(dialog).toHaveTextContent(/lid\.stl.*Sending/);
    useImportProgress.setState({ [asked()]: { stage: 'reading triangles', part: 0.42 } });
    await expect.element(dialog).toHaveTextContent('Reading triangles, 42 %');
    answer(info());
    await done;
    // What is cut in workshops stands on z: its height is the file's third side.
    await expect.element(dialog).toHaveTextContent(/2\.4 k triangles.*0\.4 m wide, 0\.2 m high, 0\.3 m deep/);
    await page.getByRole('combobox', { name: 'Up in the file' }).click();
    await page.getByRole('option', { name: 'y axis' }).click();
    await expect.element(dialog).toHaveTextContent('0.4 m wide, 0.3 m high, 0.2 m deep');
    await page.getByRole('combobox', { name: 'A file unit is' }).click();
    await page.getByRole('option', { name: 'one centimetre' }).click();
    await expect.element(dialog).toHaveTextContent('4 m wide, 3 m high, 2 m deep');
  });

  it('adds it once, as what it was picked for, under the name of its file', async () => {
    const { answer, done } = await begin();
    answer(info());
    await done;
    await button('Add as a solid').click();
    expect(sheet().solids.map((s) => [s.name, s.shape.kind === 'mesh' && s.shape.geometry])).toEqual([['lid', HASH]]);
    await expect.element(dialog).not.toBeInTheDocument();
    expect(sheet().solids).toHaveLength(1);
  });

  it('a sheet becomes a thin solid, or a source that emits from its surface', async () => {
    const { answer, done } = await begin();
    answer(info({ sheet: true }));
    await done;
    await button('Add as a source').click();
    expect(sheet().sources.at(-1)).toMatchObject({ name: 'lid', shell: 0.1 });
  });

  it('says what was wrong with the file and changes nothing', async () => {
    const { refuse, done } = await begin();
    refuse('lid.stl: a header that promises 83 million points, and bytes for none.');
    await done;
    await expect.element(page.getByRole('alert')).toHaveTextContent('promises 83 million points');
    await button('Close').click();
    await expect.element(dialog).not.toBeInTheDocument();
    expect(sheet().solids).toEqual([]);
  });

  it('cancelled, it ends the request and says nothing more', async () => {
    const { done } = await begin();
    await button('Cancel').click();
    await done;
    await expect.element(dialog).not.toBeInTheDocument();
  });

  it('a picture is no shape, and what it is for is said', async () => {
    const { answer, done } = await begin();
    answer(info({ kind: 'picture' }));
    await done;
    await expect.element(page.getByRole('alert')).toHaveTextContent(/It can mask what a source emits/);
  });
});
