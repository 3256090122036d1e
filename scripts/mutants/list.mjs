// Faults that are planted one at a time: each a slip that a hand could make, in a place where it would cost a user something. `tests`: where it must be
// caught. `from` stands exactly once in its file.

/**
 * @typedef {object} Mutant
 * @property {string} name What is wrong then.
 * @property {string} file
 * @property {string} from
 * @property {string} to
 * @property {'unit' | 'components'} [project]
 * @property {string[]} tests
 */

const gas = (...names) => names.map((n) => `src/core/gas/${n}.test.ts`);
const KERNELS = 'src/kernels/assembly/';
const APP = ['src/server/app/trust.test.ts', 'src/server/app/app.test.ts'];

/** @type {Mutant[]} */
export const MUTANTS = [
  // Kernels.
  {
    name: 'traces follow the velocity the wrong way half of the step',
    file: `${KERNELS}advect.ts`,
    from: 'const mx = f32x4.sub(x, f32x4.mul(halfStep, vx));',
    to: 'const mx = f32x4.add(x, f32x4.mul(halfStep, vx));',
    tests: ['src/kernels/kernels.test.ts', ...gas('accuracy')],
  },
  {
    name: 'the corrected scheme of scalars corrects twice as much',
    file: `${KERNELS}advect.ts`,
    from: `          cornerRange(ctx, source, bx, by, bz);
          const second = f32x4.add(first, f32x4.mul(half, error));`,
    to: `          cornerRange(ctx, source, bx, by, bz);
          const second = f32x4.add(first, error);`,
    tests: ['src/kernels/kernels.test.ts', ...gas('accuracy')],
  },
  {
    name: 'the corrected scheme of velocities is not clamped',
    file: `${KERNELS}advect.ts`,
    from: `        const clamped = f32x4.pmin(f32x4.pmax(second, rangeLow), rangeHigh);
        v128.store(target + o, v128.bitselect(clamped, first, good));`,
    to: `        v128.store(target + o, v128.bitselect(second, first, good));`,
    tests: ['src/kernels/kernels.test.ts'],
  },
  {
    name: 'the flux through the upper z faces is left out of the divergence in cut tiles',
    file: `${KERNELS}project.ts`,
    from: 'wp = f32x4.mul(wp, v128.load(q + 5 * CUT_STRIDE));',
    to: 'wp = f32x4.mul(wp, v128.load(q + 4 * CUT_STRIDE));',
    tests: ['src/kernels/kernels.test.ts', 'src/core/grid/pressure.test.ts', ...gas('laws')],
  },
  {
    name: 'the gradient at an open wall is half of what it is',
    file: `${KERNELS}project.ts`,
    from: 'const factor = v128.bitselect(f32x4.splat(2), f32x4.splat(1), open);',
    to: 'const factor = f32x4.splat(1);',
    tests: ['src/kernels/kernels.test.ts', 'src/core/grid/pressure.test.ts', ...gas('laws')],
  },
  {
    name: 'walls keep the flow through them',
    file: `${KERNELS}project.ts`,
    from: `        store<f32>(out, 0);
        continue;
      }
      let sum: f32 = 0;
      let count: f32 = 0;
      for (let m = 0; m < 6; ++m) {
        const step = m < 2 ? 1 : m < 4 ? sx : sp;
        const q = o + ((m & 1) == 0 ? -step : step);
        // A`,
    to: `        store<f32>(out, load<f32>(field + (<usize>o << 2)));
        continue;
      }
      let sum: f32 = 0;
      let count: f32 = 0;
      for (let m = 0; m < 6; ++m) {
        const step = m < 2 ? 1 : m < 4 ? sx : sp;
        const q = o + ((m & 1) == 0 ? -step : step);
        // A`,
    tests: ['src/kernels/kernels.test.ts', ...gas('laws', 'mesh')],
  },
  {
    name: 'heavy matter rises',
    file: `${KERNELS}forces.ts`,
    from: 'const a = f32x4.sub(f32x4.mul(l, heat), f32x4.mul(s, df));',
    to: 'const a = f32x4.add(f32x4.mul(l, heat), f32x4.mul(s, df));',
    tests: ['src/kernels/kernels.test.ts', ...gas('laws')],
  },
  {
    name: 'vorticity about y has the other sign',
    file: `${KERNELS}forces.ts`,
    from: 'const y = f32x4.sub(slope(u + o, 4, sp), slope(w + o, sp, 4));',
    to: 'const y = f32x4.sub(slope(w + o, sp, 4), slope(u + o, 4, sp));',
    tests: ['src/kernels/kernels.test.ts', ...gas('laws', 'spectrum')],
  },
  {
    name: 'soot that is made is not recorded',
    file: `${KERNELS}fire.ts`,
    from: 'made += <f64>(soot * burnt);',
    to: '',
    tests: gas('fire'),
  },
  {
    name: 'flames cool with the third power',
    file: `${KERNELS}fire.ts`,
    from: 'const cooling: f32 = 3 * loss * dt * 1e-12;',
    to: 'const cooling: f32 = 2 * loss * dt * 1e-12;',
    tests: gas('fire'),
  },
  {
    name: 'what fades is taken for cut off',
    file: `${KERNELS}forces.ts`,
    from: 'cut = addInto(cut, v128.and(f32x4.sub(after, kept), fluid));',
    to: 'cut = addInto(cut, v128.and(f32x4.sub(old, kept), fluid));',
    tests: ['src/kernels/kernels.test.ts', ...gas('laws')],
  },

  // The gas.
  {
    name: 'a source is added once a substep instead of once a second',
    file: 'src/core/gas/emission.ts',
    from: 'return old + amount * active * part;',
    to: 'return old + amount * part;',
    tests: gas('emitting', 'laws'),
  },
  {
    name: 'colour of what is added is not mixed with what was there',
    file: 'src/core/gas/emission.ts',
    from: 'field[at] = (field[at] ?? 0) * share + given * (this.#value[n] ?? 0);',
    to: 'field[at] = given * (this.#value[n] ?? 0);',
    tests: gas('carried'),
  },
  {
    name: 'the reflected velocity goes a whole step',
    file: 'src/core/gas/transport.ts',
    from: 'const c = dt / 2 / options.voxelSize;',
    to: 'const c = dt / options.voxelSize;',
    tests: gas('reflection'),
  },
  {
    name: 'what leaves through a wall is not recorded',
    file: 'src/core/gas/transport.ts',
    from: 'if (wall) ledger.walls[wall] += amount;',
    to: 'if (wall) ledger.walls[wall] += 0;',
    tests: gas('carrying'),
  },
  {
    name: 'what conservative sweeps carry through a wall is not in the ledger',
    file: 'src/core/gas/transport.ts',
    from: 'ledger.walls[wall] += out;',
    to: 'ledger.walls[wall] += 0;',
    tests: gas('carrying'),
  },
  {
    name: 'cooling goes on twice as fast',
    file: 'src/core/gas/step.ts',
    from: 'f.temperature, ambient, Math.exp(-dt / coolingTime)',
    to: 'f.temperature, ambient, Math.exp((-2 * dt) / coolingTime)',
    tests: gas('laws'),
  },
  {
    name: 'burning gas takes no more room',
    file: 'src/core/gas/step.ts',
    from: "if (fire && fire.expansion > 0) team.launch('expand'",
    to: "if (fire && fire.expansion > 1e9) team.launch('expand'",
    tests: gas('fire'),
  },
  {
    name: 'the wind blows at the time of the substep before',
    file: 'src/core/gas/step.ts',
    from: 'this.#forces = this.motion.forces(time + dt / 2);',
    to: 'this.#forces = this.motion.forces(time - dt / 2);',
    tests: gas('moving', 'wind'),
  },
  {
    name: 'a solid is recorded as if it made matter',
    file: 'src/core/gas/step.ts',
    from: 'ledger.mass.solids += (lost.mass - filled.mass) * cell;',
    to: 'ledger.mass.solids += (filled.mass - lost.mass) * cell;',
    tests: gas('paddle', 'laws', 'moving'),
  },
  {
    name: 'what a sweep carries out of a cell on its right is not taken from it',
    file: `${KERNELS}carry.ts`,
    from: 'else v128.store(amount + p - 16, f32x4.add(f32x4.add(haveBefore, f32x4.sub(fluxBefore, flux)), bias));',
    to: 'else v128.store(amount + p - 16, f32x4.add(f32x4.add(haveBefore, fluxBefore), bias));',
    tests: gas('carrying'),
  },
  {
    name: "a parabola's ends are not limited to each other",
    file: `${KERNELS}carry.ts`,
    from: 'toRight = v128.and(v128.bitselect(a, b2, f32x4.le(f32x4.abs(a), f32x4.abs(b2))), agree);',
    to: 'toRight = a;',
    tests: gas('carrying'),
  },
  {
    name: 'volumes are not carried with what is in them',
    file: `${KERNELS}carry.ts`,
    from: 'v128.store(volume + (i << 4), f32x4.sub(f32x4.add(at(volume, i), change), one));',
    to: 'v128.store(volume + (i << 4), f32x4.sub(at(volume, i), one));',
    tests: gas('carrying'),
  },
  {
    name: 'sweeps see through closed faces',
    file: `${KERNELS}carry.ts`,
    from: 'profile(q, plain ? 0 : open, right, left, n);',
    to: 'profile(q, 0, right, left, n);',
    tests: gas('carrying', 'laws'),
  },
  {
    name: 'what a sweep holds back is forgotten',
    file: 'src/core/gas/carrying.ts',
    from: 'return held > 0;',
    to: 'return false;',
    tests: gas('carrying'),
  },
  {
    name: 'expansion cools',
    file: 'src/core/gas/transport.ts',
    from: 'fire.expansion * dt,',
    to: '0 * dt,',
    tests: gas('carrying', 'fire'),
  },
  {
    name: 'what a paddle covers is not made good',
    file: 'src/core/gas/settle.ts',
    from: "const [byMass, byHeat] = [factor('mass'), factor('heat')];",
    to: "const [byMass, byHeat] = [1, factor('heat')];",
    tests: gas('carrying', 'paddle'),
  },
  {
    name: 'still air brakes',
    file: 'src/core/gas/step.ts',
    from: 'if (windTime !== null) takeUpWind(team, level, f, wind, Math.exp(-dt / windTime));',
    to: "if (windTime !== null) [0, 1, 2].forEach((a) => team.launch('relax', level.count, level.context, velocity[a] ?? 0, wind[a] ?? 0, Math.exp(-dt / windTime)));",
    tests: gas('wind', 'carrying'),
  },
  {
    name: 'a held source fills what it covers in part again and again',
    file: 'src/core/gas/emission.ts',
    from: 'return has <= wanted ? old : old + (base + amount - old) * part;',
    to: 'return old + (base + amount - old) * part;',
    tests: gas('emitting', 'carrying'),
  },
  {
    name: 'even and odd cells are exchanged where rows are paired',
    file: `${KERNELS}poisson.ts`,
    from: 'return v128.shuffle<f32>(v128.load(p - 16), v128.load(p, 16), 3, 4, 5, 6);',
    to: 'return v128.shuffle<f32>(v128.load(p - 16), v128.load(p, 16), 2, 3, 4, 5);',
    tests: ['src/kernels/kernels.test.ts', 'src/core/grid/pressure.test.ts'],
  },

  // Numbers around it.
  {
    name: 'a growing ball pushes at half its speed',
    file: 'src/core/geometry/shapes.ts',
    from: 'return [to.radius / from.radius, to.radius / from.radius, to.radius / from.radius];',
    to: 'return [1, 1, 1];',
    tests: ['src/core/geometry/geometry.test.ts'],
  },
  {
    name: 'a hollow solid is solid',
    file: 'src/core/geometry/forms.ts',
    from: 'return Math.max(d, -(d + thickness)) - offset;',
    to: 'return Math.max(d, -(d - thickness)) - offset;',
    tests: ['src/core/geometry/geometry.test.ts'],
  },
  {
    name: 'halves are cut instead of rounded',
    file: 'src/core/formats/half.ts',
    from: 'const rounded = magnitude - 0x38000000 + 0xfff + ((magnitude >>> 13) & 1);',
    to: 'const rounded = magnitude - 0x38000000;',
    tests: ['src/core/formats/vdb.test.ts'],
  },
  {
    name: 'a preview lies one voxel aside',
    file: 'src/core/formats/preview.ts',
    from: 'const z0 = (grid.origins[3 * t + 2] ?? 0) - window.oz;',
    to: 'const z0 = (grid.origins[3 * t + 2] ?? 0) - window.oz + 1;',
    tests: ['src/core/formats/preview.test.ts'],
  },
  {
    name: 'memory is predicted without the growth of the reach',
    file: 'src/core/cost/extrapolate.ts',
    from: '2 * (reachOf(plan, hTo) - reachOf(run.plan, hTo))',
    to: '0 * (reachOf(plan, hTo) - reachOf(run.plan, hTo))',
    tests: ['src/core/cost/predict.test.ts', 'src/core/cost/replay.test.ts'],
  },
  {
    name: 'frames of the pre-roll are predicted to be written',
    file: 'src/core/cost/extrapolate.ts',
    from: 'const writes = frame >= to.firstFrame || plan.keep.preRoll;',
    to: 'const writes = true || plan.keep.preRoll;',
    tests: ['src/core/cost/predict.test.ts', 'src/core/cost/replay.test.ts'],
  },
  {
    name: 'substeps are predicted without the CFL number',
    file: 'src/core/cost/extrapolate.ts',
    from: 'const x = speed / (framesPerSecond * stepping.cfl * voxelSize);',
    to: 'const x = speed / (framesPerSecond * voxelSize);',
    tests: ['src/core/cost/predict.test.ts', 'src/core/cost/replay.test.ts'],
  },
  {
    name: 'a loss of matter is not found, only a gain',
    file: 'src/core/checks/mass.ts',
    from: '!(Math.abs(now) > ALLOWED)',
    to: '!(now > ALLOWED)',
    tests: ['src/core/checks/checks.test.ts'],
  },
  {
    name: "the remedy for substeps asks for the coarse run's number",
    file: 'src/core/checks/substeps.ts',
    from: 'const wanted = Math.min(64, Math.max(here, atFinal));',
    to: 'const wanted = Math.min(64, here);',
    tests: ['src/core/checks/checks.test.ts'],
  },
  {
    name: 'a cache of other settings is called fresh',
    file: 'src/core/shot/cache-state.ts',
    from: "if (run.key !== keyNow) return 'stale';",
    to: '',
    tests: ['src/core/shot/shot.test.ts'],
  },
  {
    name: 'the limits of a move are not brought to real size',
    file: 'src/core/moves/scale.ts',
    from: 'short(move.limits[0] * factor)',
    to: 'short(move.limits[0])',
    tests: ['src/core/shot/real-size.test.ts'],
  },
  {
    name: 'a remedy that does not go with the other settings is put on the sheet',
    file: 'src/core/shot/edits.ts',
    from: 'return result.success ? result.data : null;',
    to: 'return changed as Settings;',
    tests: ['src/core/checks/checks.test.ts', 'src/core/shot/shot.test.ts'],
  },

  // The server.
  {
    name: 'a second run of a shot gets the number of the first',
    file: 'src/server/app/runs.ts',
    from: '(select coalesce(max(number), 0) + 1 from runs where shotId = ${shot.id})',
    to: '(select coalesce(min(number), 0) + 1 from runs where shotId = ${shot.id})',
    tests: APP,
  },
  {
    name: 'files of a frame are not noted, so that damage is not found',
    file: 'src/server/app/runs.ts',
    from: '      ...files.map((w) =>',
    to: '      ...files.slice(1).map((w) =>',
    tests: APP,
  },
  {
    name: 'a draft of another window is written over',
    file: 'src/server/app/shots.ts',
    from: 'if ((current?.revision ?? 0) !== revision) {',
    to: 'if (false as boolean) {',
    tests: APP,
  },
  {
    name: 'a run uses the variant instead of its draft',
    file: 'src/server/app/shots.ts',
    from: '    const settings = draft?.settings ?? variant.settings.value;',
    to: '    const settings = variant.settings.value;',
    tests: APP,
  },
  {
    name: 'a copy takes the variants without their drafts',
    file: 'src/server/app/shots.ts',
    from: 'settings: v.draft?.settings ?? v.settings,',
    to: 'settings: v.settings,',
    tests: APP,
  },
  {
    name: 'the disk budget is not asked',
    file: 'src/server/app/shots.ts',
    from: 'budgets.disk - spent((r) => r.bytes)',
    to: 'budgets.disk + spent((r) => r.bytes)',
    tests: APP,
  },
  {
    name: 'a quick look takes back what a checksum found',
    file: 'src/server/app/health.ts',
    from: "after: !whole && damage === 'damaged' && now.get(frame) === null ? damage : (now.get(frame) ?? null),",
    to: 'after: now.get(frame) ?? null,',
    tests: APP,
  },
  {
    name: 'what a killed process left of a frame stays',
    file: 'src/server/app/leftovers.ts',
    from: 'const swept = await sweepRun(folder, kept);',
    to: 'const swept: string[] = [];',
    tests: APP,
  },
  {
    name: 'a run may fill the disk by one write',
    file: 'src/server/cache/disk-guard.ts',
    from: 'return (await freeBytes(this.folder)) - bytes >= this.keepBytes;',
    to: 'return (await freeBytes(this.folder)) >= this.keepBytes;',
    tests: ['src/server/cache/cache.test.ts', ...APP],
  },
  {
    name: 'the newest job is taken first',
    file: 'src/server/queue/claim.ts',
    from: '.orderBy(asc(jobs.id))',
    to: '.orderBy(sql`id desc`)',
    tests: ['src/server/queue/queue.test.ts'],
  },
  {
    name: 'a run that computes is cancelled as if it waited',
    file: 'src/server/queue/cancel.ts',
    from: "inArray(tables.runs.state, ['queued', 'paused'])",
    to: "inArray(tables.runs.state, ['queued', 'paused', 'running'])",
    tests: ['src/server/queue/queue.test.ts'],
  },
  {
    name: 'a name in a request may climb out of its folder',
    file: 'src/server/api/route.ts',
    from: 'if (!/^-?[A-Za-z0-9-]{1,64}$/.test(h)) return null;',
    to: 'if (h === null) return null;',
    tests: ['src/server/api/route.test.ts'],
  },
  {
    name: 'a zip may unpack to any size',
    file: 'src/workers/node/importing/unpack.ts',
    from: 'if (total > most) refuse(',
    to: 'if (total > 1e15) refuse(',
    tests: ['src/workers/node/importing/attacks.test.ts'],
  },

  // The page.
  {
    name: 'a frame that is told while its run is asked for is lost',
    file: 'src/web/state/queries.ts',
    from: 'return { ...detail, frames: withFrames<AnyFrame>(detail.frames, told) };',
    to: 'return detail;',
    project: 'components',
    tests: ['src/web/state/events.page.test.ts'],
  },
  {
    name: 'a run of one shot is put into the next',
    file: 'src/web/state/events.ts',
    from: 'if (shot?.id !== run.shotId) return shot;',
    to: 'if (!shot) return shot;',
    project: 'components',
    tests: ['src/web/state/events.page.test.ts'],
  },
  {
    name: 'an edit that could not be saved is forgotten',
    file: 'src/web/state/sheet.ts',
    from: `        set({ unsaved: true });
        say('error'`,
    to: `        say('error'`,
    project: 'components',
    tests: ['src/web/state/sheet.page.test.ts'],
  },
  {
    name: 'a key that is taken out stays as undefined',
    file: 'src/web/state/history.ts',
    from: 'if (Object.hasOwn(target, key)) Reflect.deleteProperty(target, key);',
    to: 'target[key] = undefined;',
    tests: ['src/web/state/history.test.ts'],
  },
  {
    name: 'Escape takes a typed number over',
    file: 'src/web/ui/number-field.tsx',
    from: 'if (takenBack.current) return;',
    to: '',
    project: 'components',
    tests: ['src/web/ui/number-field.test.tsx'],
  },
  {
    name: 'a run that would break a budget starts without a question',
    file: 'src/web/views/bench/runs/start-run.tsx',
    from: '((p.time?.likely ?? 0) > budgets.time - spent.seconds ||',
    to: '((p.time?.likely ?? 0) > budgets.time + spent.seconds ||',
    project: 'components',
    tests: ['src/web/views/bench/runs/start-run.test.tsx'],
  },
  {
    name: 'the source before the one that is pressed is removed',
    file: 'src/web/views/bench/sheet/items.ts',
    from: 'itemsOf(s, group).filter((_item, n) => n !== index),',
    to: 'itemsOf(s, group).filter((_item, n) => n !== index - 1),',
    project: 'components',
    tests: ['src/web/views/bench/sheet/item-list.test.tsx'],
  },
  {
    name: 'a file that stands on z lies down',
    file: 'src/web/views/bench/sheet/import-geometry.tsx',
    from: "const sizes = up === 'y' ? info.size : ([info.size[0], info.size[2], info.size[1]] as const);",
    to: 'const sizes = info.size;',
    project: 'components',
    tests: ['src/web/views/bench/sheet/import-geometry.test.tsx'],
  },
  {
    name: 'what is typed last in an expression is lost when its dialog closes',
    file: 'src/web/views/bench/moves/move-dialog.tsx',
    from: 'useEffect(() => settle, []);',
    to: 'useEffect(() => undefined, []);',
    project: 'components',
    tests: ['src/web/views/bench/moves/move-dialog.test.tsx'],
  },
  {
    name: 'a click on the strip goes to the next frame',
    file: 'src/web/views/bench/frames/strip-drawing.ts',
    from: 'first + Math.floor((x - MARGIN) / cell) * perCell',
    to: 'first + Math.ceil((x - MARGIN) / cell) * perCell',
    project: 'components',
    tests: ['src/web/views/bench/frames/frame-strip.test.tsx'],
  },
  {
    name: 'what half the voxel size wakes is counted on the voxels as they are',
    file: 'src/core/gas/activity.ts',
    from: '2 * v + (n % 6 < 3 ? 0 : 1)',
    to: 'v',
    project: 'unit',
    tests: ['src/core/gas/activity.test.ts'],
  },
  {
    name: 'times are weighted by what was measured: all are fitted too low',
    file: 'src/core/cost/nnls.ts',
    from: 'size = b.map((_v, r) => Math.max(floor, fitted(x, r)));',
    to: 'size = b.map((v) => Math.max(floor, Math.abs(v)));',
    project: 'unit',
    tests: ['src/core/cost/nnls.test.ts'],
  },
  {
    name: 'a partly covered voxel counts by its middle',
    file: 'src/core/gas/covers.ts',
    from: 'return sum / 8;',
    to: 'return Math.min(1, Math.max(0, 0.5 - d / h));',
    project: 'unit',
    tests: ['src/core/gas/carrying.test.ts'],
  },
  {
    name: 'a later notice erases an error',
    file: 'src/web/app/notices.tsx',
    from: 'maxSnack={MOST}',
    to: 'maxSnack={1}',
    project: 'components',
    tests: ['src/web/app/notices.test.tsx'],
  },
  // Going on.
  {
    name: 'a run that goes on forgets how long its last substep was',
    file: 'src/core/gas/solver.ts',
    from: 'this.#lastStep = from.lastStep;',
    to: '',
    project: 'unit',
    tests: ['src/core/gas/snapshot.test.ts'],
  },
  {
    name: 'a run that goes on forgets what was touched',
    file: 'src/core/gas/solver.ts',
    from: 'if (trail && marks)',
    to: 'if (trail && marks && marks.length > 1e9)',
    project: 'unit',
    tests: ['src/core/gas/snapshot.test.ts'],
  },
  {
    name: 'of two bounds each goes on from the state of the first',
    file: 'src/workers/node/compute-bounds.ts',
    from: 'from: from[bounds] ?? null,',
    to: 'from: from[0] ?? null,',
    project: 'unit',
    tests: ['src/server/engine/run.test.ts'],
  },
  {
    name: 'frames that are there are written once more',
    file: 'src/workers/node/compute-bounds.ts',
    from: 'if (ended || stored.has(frame)) return Promise.resolve();',
    to: 'if (ended) return Promise.resolve();',
    project: 'unit',
    tests: ['src/server/engine/run.test.ts'],
  },
  {
    name: 'a run goes on with frames of another solver',
    file: 'src/server/app/runner.ts',
    from: 'if (begun) return false;',
    to: 'if (begun && row.number < 0) return false;',
    project: 'unit',
    tests: APP,
  },
  {
    name: 'a run that ends the server is begun again for ever',
    file: 'src/server/queue/recover.ts',
    from: 'if (again < MOST_ATTEMPTS)',
    to: 'if (again < 1e9)',
    project: 'unit',
    tests: ['src/server/queue/queue.test.ts'],
  },
  {
    name: 'states take a third of the time',
    file: 'src/workers/node/state-pace.ts',
    from: 'const SHARE = 0.03;',
    to: 'const SHARE = 0.3;',
    project: 'unit',
    tests: ['src/workers/node/state-pace.test.ts'],
  },
  {
    name: 'a pass begins while what it reads is still computed',
    file: 'src/server/queue/claim.ts',
    from: "inArray(runs.state, ['queued', 'running', 'paused'])",
    to: "inArray(runs.state, ['paused'])",
    project: 'unit',
    tests: ['src/server/app/passes.test.ts'],
  },
  {
    name: 'a pass reads a file that is not what was written',
    file: 'src/workers/node/pass-main.ts',
    from: 'if (checksum !== null && createHash',
    to: "if (checksum === '' && createHash",
    project: 'unit',
    tests: ['src/server/app/passes.test.ts'],
  },
  {
    name: "a pass's key does not hold what it reads",
    file: 'src/core/pass/key.ts',
    from: "canonicalJson(['pass', pass, version, from, keys, body])",
    to: "canonicalJson(['pass', pass, version, from, keys.length, body])",
    project: 'unit',
    tests: ['src/web/state/passes.test.ts', 'src/server/app/passes.test.ts'],
  },
  {
    name: 'what another run reads is freed without asking',
    file: 'src/server/app/freed.ts',
    from: 'const reader = sure ? null',
    to: 'const reader = sure || row.number > 0 ? null',
    project: 'unit',
    tests: ['src/server/app/passes.test.ts'],
  },
  {
    name: 'resampled voxels that are covered in part weigh as if they were covered whole',
    file: 'src/core/passes/resample/resample.ts',
    from: 'const inside = Math.min(1, (first + 1 - low) / share);',
    to: 'const inside = Math.min(1, Math.round((first + 1 - low) / share));',
    project: 'unit',
    tests: ['src/core/passes/resample/resample.test.ts'],
  },
  {
    name: 'particles are carried a whole frame when they are born within it',
    file: `${KERNELS}particles.ts`,
    from: 'const born = age < 0 ? max<f32>(0, seconds + age) : <f32>0;',
    to: 'const born: f32 = 0;',
    tests: ['src/core/passes/particles/flight.test.ts'],
  },
  {
    name: 'the midpoint of a flight is taken at the end of the step',
    file: `${KERNELS}particles.ts`,
    from: '(t0 + <f32>0.5 * h) / seconds, background);',
    to: '(t0 + h) / seconds, background);',
    tests: ['src/core/passes/particles/flight.test.ts'],
  },
  {
    name: 'a still loses light twice as fast',
    file: 'src/core/passes/stills/march.ts',
    from: 'const through = Math.exp(-extinction * Math.max(0, density) * h);',
    to: 'const through = Math.exp(-2 * extinction * Math.max(0, density) * h);',
    project: 'unit',
    tests: ['src/core/passes/stills/march.test.ts'],
  },
  {
    name: 'what is stale above does not make a pass stale',
    file: 'src/web/state/passes.ts',
    from: "const state = run ? cacheState(run, now?.key ?? '', run.frameCount) : 'missing';",
    to: "const state = run ? cacheState(run, run.key, run.frameCount) : 'missing';",
    project: 'unit',
    tests: ['src/web/state/passes.test.ts'],
  },
  {
    name: 'an approved cache is freed without asking',
    file: 'src/server/app/freed.ts',
    from: 'if (row.approvedAt !== null && !sure)',
    to: 'if (row.approvedAt !== null && !sure && row.number < 0)',
    project: 'unit',
    tests: APP,
  },
];
