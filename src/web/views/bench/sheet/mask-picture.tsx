import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactElement } from 'react';
import type { GasSourceSettings } from '#core/shot';
import { api, say, startImport } from '#web/state';
import { useColours } from '#web/ui';
import { pickFiles } from './pick-file';

type Mask = NonNullable<GasSourceSettings['mask']>;

const ENDINGS = '.png,.jpg,.jpeg,.webp,.tif,.tiff';

/** Lets the user pick a picture, and keeps it; what it becomes is handed over. */
export function pickMask(onPicked: (mask: Pick<Mask, 'picture' | 'file'>) => void): void {
  pickFiles('Picture file', ENDINGS, false, ([file]) => {
    if (!file) return;
    startImport(file).done.then(
      (info) => {
        if (info.kind === 'picture') onPicked({ picture: info.hash, file: info.file });
        else say('error', `${info.file} is no picture.`);
        for (const note of info.notes) say('warning', `${info.file}: ${note}`);
      },
      (error: unknown) => {
        say('error', error instanceof Error ? error.message : String(error));
      },
    );
  });
}

/** The picture of a mask, and a way to another. */
export function MaskPicture({ mask, onChange }: { mask: Mask; onChange: (mask: Mask) => void }): ReactElement {
  const c = useColours();
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
      <img
        src={api.pictureUrl(mask.picture)}
        alt={`The mask ${mask.file}`}
        style={{
          width: 56,
          height: 56,
          objectFit: 'contain',
          background: '#000',
          border: `1px solid ${c.line}`,
          borderRadius: 4,
          filter: mask.inverted ? 'invert(1)' : 'none',
        }}
      />
      <span style={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', color: c.dim }}>
        {mask.file}
      </span>
      <Button
        size="small"
        color="inherit"
        onClick={() => {
          pickMask((picked) => {
            onChange({ ...mask, ...picked });
          });
        }}
      >
        Another…
      </Button>
    </Box>
  );
}
