import type { CameraSettings } from '#core/shot';
import { say, useSheet } from '#web/state';
import type { ViewportApi } from '#web/viewport';

export const ASPECTS: readonly (readonly [string, number])[] = [
  ['16 : 9', 16 / 9],
  ['2.39 : 1', 2.39],
  ['1.85 : 1', 1.85],
  ['4 : 3', 4 / 3],
  ['1 : 1', 1],
  ['9 : 16', 9 / 16],
];

export const isAspect = (camera: CameraSettings, aspect: number): boolean => Math.abs(camera.aspect - aspect) < 0.01;

export interface CameraControls {
  readonly api: () => ViewportApi | null;
  /** The camera that is looked through; null: free. */
  readonly current: string | null;
  readonly choose: (name: string | null) => void;
  /** How a still's file is called. */
  readonly stillName: () => string;
}

function download(blob: Blob, name: string): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}

const millimetres = (v: readonly [number, number, number]): [number, number, number] => [
  Number(v[0].toFixed(3)),
  Number(v[1].toFixed(3)),
  Number(v[2].toFixed(3)),
];

/** The shot's cameras, and what can be done with them. */
export function useCameras(controls: CameraControls) {
  const { cameras } = useSheet((s) => s.fields);
  const editSheet = useSheet((s) => s.editSheet);
  const current = cameras.find((k) => k.name === controls.current) ?? null;
  const set = (next: readonly CameraSettings[], title: string): boolean =>
    editSheet((s) => ({ ...s, fields: { ...s.fields, cameras: [...next] } }), title);
  return {
    cameras,
    current,
    look: (camera: CameraSettings): void => {
      controls.api()?.setView(camera);
      controls.choose(camera.name);
    },
    frameAll: (): void => {
      controls.choose(null);
      controls.api()?.frame();
    },
    /** Keeps the present view under a name; refuses one that there is. */
    save: (name: string): void => {
      const view = controls.api()?.view();
      if (!view) return;
      if (cameras.some((k) => k.name === name)) throw new Error(`There is a camera "${name}" already.`);
      const camera = {
        name,
        position: millimetres(view.position),
        target: millimetres(view.target),
        fieldOfView: view.fieldOfView,
        aspect: current?.aspect ?? 16 / 9,
      };
      if (set([...cameras, camera], `Camera ${name}`)) controls.choose(name);
    },
    setAspect: (aspect: number): void => {
      if (!current) return;
      set(
        cameras.map((k) => (k.name === current.name ? { ...k, aspect } : k)),
        `Aspect of ${current.name}`,
      );
    },
    remove: (): void => {
      if (!current) return;
      set(
        cameras.filter((k) => k.name !== current.name),
        `Camera ${current.name} removed`,
      );
      controls.choose(null);
    },
    still: async (): Promise<void> => {
      try {
        const blob = await controls.api()?.still(current?.aspect ?? null);
        if (!blob) return;
        const name = controls.stillName();
        download(blob, name);
        say('success', `Saved: ${name}`);
      } catch (error) {
        say('error', `The still could not be made: ${String(error)}`);
      }
    },
  };
}
