import { type Check, type Remedy, framesOf, framesText } from './finding';

/** Roughness of a turbulent flow is 0.40, of a smooth one 0.06; what the solver gives with its usual schemes is about 0.2. */
const TOO_SMOOTH = 0.1;
/** Frames at the start have no motion to speak of. */
const FROM = 0.4;

/** All of the energy is in large rolls: rounded caps give the computer away. */
export const overSmooth: Check = {
  id: 'over-smooth',
  find({ settings, reports }) {
    const later = reports.slice(Math.floor(reports.length * FROM)).filter((r) => r.matterTiles >= 8);
    if (later.length < 4) return [];
    const smooth = later.filter((r) => (r.roughness as number | undefined) !== undefined && r.roughness < TOO_SMOOTH);
    if (smooth.length < later.length / 2) return [];
    const frames = framesOf(smooth);
    const mean = smooth.reduce((s, r) => s + r.roughness, 0) / smooth.length;
    const remedies: Remedy[] = [];
    if (settings.matter.smoothing > 0) {
      remedies.push({
        title: `Velocity smoothing ${String(settings.matter.smoothing)} → 0`,
        edits: [{ path: 'matter.smoothing', value: 0 }],
      });
    }
    if (settings.matter.velocityAdvection === 'linear') {
      remedies.push({
        title: 'Advection of velocity Linear → MacCormack',
        edits: [{ path: 'matter.velocityAdvection', value: 'maccormack' }],
      });
    } else if (settings.matter.velocityAdvection === 'maccormack') {
      remedies.push({ title: 'Advection of velocity MacCormack → BFECC', edits: [{ path: 'matter.velocityAdvection', value: 'bfecc' }] });
    }
    if (settings.forces.confinement < 0.3) {
      remedies.push({
        title: `Vorticity confinement ${String(settings.forces.confinement)} → 0.3`,
        edits: [{ path: 'forces.confinement', value: 0.3 }],
      });
    }
    return [
      {
        id: 'over-smooth',
        group: 'matter',
        severity: 'note',
        title: `The motion is smooth down to the voxels: roughness ${mean.toFixed(2)}`,
        text: `${frames ? `In ${framesText(frames)}. ` : ''}Turbulence has 0.40, what the usual schemes keep of it about 0.2; near 0.06 there is no small motion at all, and large round caps show that it is computed. A sharper scheme, confinement or a turbulence field brings it back.`,
        frames,
        remedies,
      },
    ];
  },
};

/** Of the energy at hand, a frame. */
const GIVEN = 0.05;

/** Advection and projection can only take energy; when they give it, the computation is about to shake itself apart. */
export const growingEnergy: Check = {
  id: 'energy',
  find({ settings, plan, reports }) {
    // What sources, moving solids and fire do to the motion is not recorded: with them nothing can be said.
    const works =
      settings.sources.some((s) => !s.hidden && (s.velocity !== null || s.stir !== null)) ||
      settings.matter.fire !== null ||
      plan.options.solids.some((s) => Object.keys(s.moves).length > 0 || (s.shape.kind === 'mesh' && s.shape.seconds > 0));
    if (works) return [];
    const fps = plan.options.framesPerSecond;
    const growing = reports.filter(
      (r) => r.energy.loss > 0 && r.energy.loss / fps > GIVEN * Math.max(r.energy.kinetic, 1e-9) && r.energy.kinetic > 1e-6,
    );
    const frames = framesOf(growing);
    if (!frames || growing.length < 3) return [];
    const most = Math.max(...growing.map((r) => r.energy.loss));
    const cfl = Math.max(0.5, Number((settings.stepping.cfl / 2).toPrecision(2)));
    return [
      {
        id: 'energy',
        group: 'stepping',
        severity: 'warning',
        title: `Energy appears from nowhere, up to ${Number(most.toPrecision(3)).toString()} W`,
        text: `In ${framesText(frames)} transport and pressure gave energy instead of taking it, beyond what lift, forces and confinement do. Shorter substeps or a tighter pressure tolerance end it.`,
        frames,
        remedies: [
          {
            title: `CFL number ${String(settings.stepping.cfl)} → ${String(cfl)}`,
            edits: [
              { path: 'stepping.cfl', value: cfl },
              { path: 'stepping.maxSubsteps', value: Math.min(64, 2 * settings.stepping.maxSubsteps) },
            ],
          },
        ],
      },
    ];
  },
};
