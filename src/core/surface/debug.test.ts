import { it } from 'vitest';
import { allClosed, latticeParticles, withTeam } from '#testing';
import { Pool, makeSurface, NATURAL } from '.';
const S = 0.02;
it('debug', async () => {
  const p = latticeParticles(S, [0.5, 0.36, 0.3], () => true);
  await withTeam(1, (team) => {
    const pool = new Pool(team);
    for (let n = 0; n < 6; n++) {
      const t0 = performance.now();
      const r = makeSurface(pool, { particles: p, columns: [], beside: [], surrounding: { solids: (x, y, z) => Math.min(Math.hypot(x - 1, y, z) - 0.3, Math.hypot(x + 1, y, z) - 0.3,Math.hypot(x + 1, y, z-1) - 0.3, Math.hypot(x-3,y,z)-.1), limit: { min: [-0.5, -0.36, -0.3], max: [2, 2, 0.3] }, walls: { ...allClosed, ceiling: 'open' } }, time: 0 }, {
        distance: { method: 'averaged', voxelSize: 0.8 * S, spacing: S, radius: NATURAL * 3 * S, each: false, reach: 3 * S, joining: 2 * S, fewest: 10 },
        stack: [{ kind: 'curvature', on: true, strength: 0.8, iterations: 4, spareThin: 1, spareWalls: 0 }],
        thin: 2, keepVolume: true, walls: { meeting: 'contact', depth: 0 }, cut: 'closed', steady: 0, crumb: 8, waves: null }, () => performance.now() / 1000);
      console.log(p.count, r.figures.voxels / 512, r.figures.triangles, (performance.now() - t0).toFixed(0), JSON.stringify(Object.fromEntries(Object.entries(r.figures.seconds).map(([k, v]) => [k, Number((v * 1000).toFixed(0))]))));
      r.level.free();
    }
  });
});
