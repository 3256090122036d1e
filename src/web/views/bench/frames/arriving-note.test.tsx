import { type ReactElement, useState } from 'react';
import { beforeEach, describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { pointsPreview } from '#core/formats';
import { serve, show } from '#web/testing';
import { usePoints } from '../passes/points-store';
import { ArrivingNote } from './arriving-note';

const STORED = new Set([1, 2]);
/** So many particles. */
const points = (count: number): Uint8Array =>
  pointsPreview(
    {
      count,
      places: new Float32Array(4 * count).map((_v, n) => n),
      motions: new Float32Array(4 * count),
      ids: Uint32Array.from({ length: count }, (_v, n) => n),
    },
    1,
  );
let answer: (frame: number) => Promise<unknown> = () => Promise.resolve(null);

function Picture({ run, frame }: { run: string; frame: number }): ReactElement {
  const points = usePoints(run, frame, STORED);
  return (
    <div style={{ position: 'relative', width: 600, height: 300 }}>
      <p data-testid="picture">{points ? `${String(points.count)} points` : 'nothing'}</p>
      <ArrivingNote />
    </div>
  );
}
/** From one run to another by a press. */
function Changing(): ReactElement {
  const [run, setRun] = useState('run-c');
  return (
    <>
      <button onClick={() => setRun('run-b')}>Other run</button>
      <Picture run={run} frame={run === 'run-c' ? 1 : 2} />
    </>
  );
}
const note = page.getByTestId('arriving');

beforeEach(() => {
  serve({
    'GET /runs/run-a/frames/1/points': () => answer(1),
    'GET /runs/run-a/frames/2/points': () => answer(2),
    'GET /runs/run-b/frames/2/points': () => answer(2),
    'GET /runs/run-c/frames/1/points': () => answer(1),
    'GET /runs/run-c/frames/2/points': () => answer(2),
  });
});

describe('a picture that waits', () => {
  it('says so when it takes longer than a moment, and why when it cannot be had', async () => {
    let refuse = (): void => undefined;
    answer = () =>
      new Promise((_resolve, reject) => {
        // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- an answer of the server, not an error of this page
        refuse = () => reject({ tag: 'unreadable', message: 'The points of frame 1 cannot be read now.', fields: {}, cause: null });
      });
    await show(<Picture run="run-a" frame={1} />);
    await expect.element(note).toHaveTextContent('Loading frame 1 …');
    refuse();
    await expect.element(note).toHaveTextContent('Frame 1 cannot be shown: The points of frame 1 cannot be read now.');
    await expect.element(note).toHaveAttribute('role', 'alert');
  });

  it('keeps what it showed, also of another run, until the wanted one is there', async () => {
    const let_: ((n: Uint8Array) => void)[] = [];
    answer = () => new Promise((resolve) => let_.push(resolve));
    await show(<Changing />);
    const picture = page.getByTestId('picture');
    await expect.poll(() => let_.length).toBe(1);
    let_.shift()?.(points(3));
    await expect.element(picture).toHaveTextContent('3 points');
    // The next frames of the run are asked for ahead.
    await expect.poll(() => let_.length).toBe(1);
    await page.getByRole('button').click();
    await expect.element(note).toHaveTextContent('Loading frame 2 …');
    await expect.element(picture).toHaveTextContent('3 points');
    for (const give of let_) give(points(5));
    await expect.element(picture).toHaveTextContent('5 points');
    await expect.element(note).not.toBeInTheDocument();
  });
});
