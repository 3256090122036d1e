import type * as THREE from 'three';
import type { Preview } from '#core/formats';
import { CHANNEL_LOOK, type LookChannel } from '#core/look';
import { createShadowBuilder } from '#workers/browser';
import { TO_LIGHT, Volume } from './volume';

export interface ShownVolume {
  readonly preview: Preview;
  readonly channel: LookChannel;
  readonly voxelSize: number;
  /** What burns in the smoke that is shown; null: nothing. */
  readonly flame?: Preview | null;
  /** What colours the smoke; null: its own shade. */
  readonly tint?: Preview | null;
  /** Value that means "nothing here". */
  readonly background: number;
}

/** One bounds' matter with its own light. */
class Smoke {
  readonly volume = new Volume();
  readonly #shadows = createShadowBuilder();
  #shown: ShownVolume | null = null;

  /** `lit` is called when its light has come. */
  show(of: ShownVolume | null, lit: () => void): void {
    if (of === this.#shown) return;
    this.#shown = of;
    this.volume.shown = of !== null;
    if (!of) return;
    const { preview, channel, voxelSize, background, flame = null, tint = null } = of;
    this.volume.setFrame(preview, channel, voxelSize, background, flame, tint);
    const look = CHANNEL_LOOK[channel];
    if (!look.lit) return;
    void this.#shadows
      .build({
        data: preview.data.slice(),
        size: preview.size,
        depthPerVoxel: look.depth * preview.high * preview.step * voxelSize,
        light: [TO_LIGHT.x, TO_LIGHT.y, TO_LIGHT.z],
      })
      .then((light) => {
        if (!light || this.#shown !== of) return;
        this.volume.setLight(light);
        lit();
      });
  }

  dispose(): void {
    this.#shown = null;
    this.volume.dispose();
    this.#shadows.close();
  }
}

/** The matter of all bounds, each drawn for itself, the furthest first. */
export class Smokes {
  #all: Smoke[] = [];

  /** `lit` is called when a light has come. */
  show(of: readonly ShownVolume[], lit: () => void): void {
    while (this.#all.length < of.length) this.#all.push(new Smoke());
    // More than were ever needed at once are not kept.
    for (const extra of this.#all.splice(Math.max(1, of.length))) extra.dispose();
    this.#all.forEach((smoke, n) => {
      smoke.show(of[n] ?? null, lit);
    });
  }

  get shown(): boolean {
    return this.#all.some((s) => s.volume.shown);
  }

  draw(camera: THREE.PerspectiveCamera, draw: (volume: Volume) => void): void {
    const far = (s: Smoke): number => s.volume.middle.distanceToSquared(camera.position);
    for (const { volume } of this.#all.filter((s) => s.volume.shown).sort((a, b) => far(b) - far(a))) draw(volume);
  }

  dispose(): void {
    for (const smoke of this.#all) smoke.dispose();
    this.#all = [];
  }
}
