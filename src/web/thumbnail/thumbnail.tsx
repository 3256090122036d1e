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
    context.fillStyle = c.page;
    context.fillRect(0, 0, width, height);
    if (runId === null || frame === null) return undefined;
    const stop = new AbortController();
    api
      .frame(runId, frame, 'density', 0, stop.signal)
      .then((bytes) => {
        const preview = decodePreview(bytes);
        if (!preview) return;
        const [nx, ny, nz] = preview.size;
        const depth = (CHANNEL_LOOK.density.depth * preview.high * preview.step * voxelSize) / 255;
        const scale = Math.max(nx / width, ny / height);
        const image = context.getImageData(0, 0, width, height);
        for (let py = 0; py < height; py++) {
          for (let px = 0; px < width; px++) {
            const i = Math.floor((px - width / 2) * scale + nx / 2);
            const j = Math.floor((height / 2 - py) * scale + ny / 2);
            if (i < 0 || j < 0 || i >= nx || j >= ny) continue;
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
            const o = (py * width + px) * 4;
            for (let n = 0; n < 3; n++) image.data[o + n] = (image.data[o + n] ?? 0) * through + [236, 229, 217][n]! * light;
          }
        }
        context.putImageData(image, 0, 0);
      })
      .catch(() => undefined);
    return () => {
      stop.abort();
    };
  }, [runId, frame, voxelSize, width, height, c]);
  return <canvas ref={canvas} width={width} height={height} style={{ borderRadius: 4, border: `1px solid ${c.line}` }} aria-hidden />;
}
