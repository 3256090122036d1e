import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QUANTITIES, pairsOf, statisticsOf } from '#core/cost';
import { parseShotFile } from '#core/shot';
import type { EvidenceDto } from '#protocol';
import { openApp } from '#server/app';
import { type Row, type Section, row } from './section';

const LIMITS = { time: { most: 15 }, memory: { most: 7 }, disk: { most: 12 }, voxels: null } as const;

/** Each variant of the demo shots in a shot of its own: its Final is predicted from its Test, and from what this machine learnt before. */
export const predictions: Section = {
  id: 'predictions',
  title: 'Prediction record over the demo shots: Final from Test',
  async run({ quick, say }) {
    const data = mkdtempSync(join(tmpdir(), 'ruddle-bench-'));
    const app = await openApp({ root: process.cwd(), data, threads: 2, keepBytes: 0, demo: false, calibrate: true, version: 'bench' });
    try {
      for (const file of readdirSync('demo').filter((f) => f.endsWith('.json'))) {
        const shot = parseShotFile(readFileSync(join('demo', file), 'utf8'), file);
        for (const variant of shot.variants) {
          const last = Math.min(shot.lastFrame, quick ? 8 : 48);
          const added = await app.shots.add({
            ...shot,
            name: `${shot.name}, ${variant.name}`,
            lastFrame: last,
            variants: [{ ...variant, parent: null }],
          });
          for (const rung of ['test', 'final'] as const) {
            const id = (await app.shots.startRun(added.variants[0]?.id ?? '', rung, app.runner, true)).id;
            for (;;) {
              const run = await app.runs.get(id);
              if (run.state !== 'queued' && run.state !== 'running') break;
              await new Promise((resolve) => setTimeout(resolve, 200));
            }
          }
          say(`${shot.name}, ${variant.name}: done`);
        }
      }
      const record = (JSON.parse(await app.costs.evidence('')) as EvidenceDto).knowledge.record.filter((r) => r.title.includes('Final'));
      const rows: Row[] = QUANTITIES.map((q) => row(`${q}: median error`, statisticsOf(record, q).medianError * 100, '%', LIMITS[q]));
      const all = QUANTITIES.flatMap((q) => pairsOf(record, q));
      const inside = all.filter((p) => p.measured >= p.range.low && p.measured <= p.range.high).length;
      rows.push(
        row(
          'inside the stated range',
          (inside / Math.max(1, all.length)) * 100,
          '%',
          { least: 90 },
          `${String(inside)} of ${String(all.length)}`,
        ),
      );
      for (const q of QUANTITIES) {
        for (const p of pairsOf(record, q)) {
          rows.push(row(`${p.entry.title}: ${q}, predicted over measured`, p.range.likely / p.measured, '×'));
        }
      }
      return rows;
    } finally {
      await app.close();
      rmSync(data, { recursive: true, force: true });
    }
  },
};
