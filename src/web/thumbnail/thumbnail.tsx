import { type ReactElement, useEffect, useRef } from 'react';
import { decodePreview } from '#core/formats';
import { CHANNEL_LOOK } from '#core/look';
import { api } from '#web/state';
import { useColours } from '#web/ui';

interface ThumbnailProps {
  readonly runId: string | null;
  readonly frame: number | null;
  readonly voxelSize: number;
  readonly width: number;
  readonly height: number;
}

/** A small picture of a frame's density: looked at along z, lit from above and left, by one pass over the voxels. */
export function Thumbnail({ runId, frame, voxelSize, width, height }: ThumbnailProps): ReactElement {
  const c = useColours();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return undefined;
    const clear = (): void => {
      context.fillStyle = c.page;
      context.fillRect(0, 0, width, height);
    };
    if (runId === null || frame === null) {
      clear();
      return undefined;
    }
    const stop = new AbortController();
    api
      .frame(runId, frame, 'density', { signal: stop.signal })
      .then((bytes) => {
        const preview = decodePreview(bytes);
        if (!preview) return;
        const [nx, ny, nz] = preview.size;
        const depth = (CHANNEL_LOOK.density.depth * preview.high * preview.step * voxelSize) / 255;
        // At the voxels' resolution, then enlarged smoothly.
        const small = document.createElement('canvas');
        small.width = nx;
        small.height = ny;
        const inner = small.getContext('2d');
        if (!inner) return;
        const image = inner.createImageData(nx, ny);
        for (let j = 0; j < ny; j++) {
          for (let i = 0; i < nx; i++) {
            let through = 1;
            let light = 0;
            for (let k = nz - 1; k >= 0 && through > 0.02; k--) {
              const d = preview.data[(k * ny + j) * nx + i] ?? 0;
              if (d === 0) continue;
              const alpha = 1 - Math.exp(-d * depth);
              // What lies above and to the left shades it.
              let above = 0;
              for (let s = 1; s <= 5; s++) above += preview.data[(k * ny + Math.min(ny - 1, j + s)) * nx + Math.max(0, i - s)] ?? 0;
              light += through * alpha * (0.3 + 0.7 * Math.exp(-above * depth * 0.8));
              through *= 1 - alpha;
            }
            const o = ((ny - 1 - j) * nx + i) * 4;
            const opacity = 1 - through;
            [236, 229, 217].forEach((full, n) => {
              image.data[o + n] = opacity > 0 ? (full * light) / opacity : 0;
            });
            image.data[o + 3] = opacity * 255;
          }
        }
        inner.putImageData(image, 0, 0);
        const scale = Math.min(width / nx, height / ny);
        // The last picture stays until this one is here.
        clear();
        context.imageSmoothingQuality = 'high';
        context.drawImage(small, (width - nx * scale) / 2, (height - ny * scale) / 2, nx * scale, ny * scale);
      })
      .catch(() => undefined);
    return () => {
      stop.abort();
    };
  }, [runId, frame, voxelSize, width, height, c]);
  return <canvas ref={canvas} width={width} height={height} style={{ borderRadius: 4, border: `1px solid ${c.line}` }} aria-hidden />;
}
