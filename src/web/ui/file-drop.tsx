import Box from '@mui/material/Box';
import type { SxProps } from '@mui/material/styles';
import type { ReactElement, ReactNode } from 'react';
import { useDropzone } from 'react-dropzone';
import { useColours } from './use-colours';

interface FileDropProps {
  /** Said while files are held over it. */
  readonly invitation: string;
  readonly onDrop: (files: readonly File[]) => void;
  readonly sx?: SxProps;
  /** Of the field behind the button that picks files instead. */
  readonly label?: string;
  readonly children: ReactNode | ((pick: () => void) => ReactNode);
}

/** Takes files that are dropped on what is in it. What they are is found out, and said, by who takes them. */
export function FileDrop({ invitation, onDrop, sx = {}, label, children }: FileDropProps): ReactElement {
  const c = useColours();
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({ onDrop, noClick: true, noKeyboard: true });
  return (
    <Box {...getRootProps({ role: undefined, tabIndex: undefined })} sx={{ position: 'relative', minHeight: 0, minWidth: 0, ...sx }}>
      {label !== undefined && <input {...getInputProps({ 'aria-label': label })} />}
      {typeof children === 'function' ? children(open) : children}
      {isDragActive && (
        <Box
          sx={{
            position: 'absolute',
            inset: 8,
            zIndex: 5,
            border: `2px dashed ${c.selected}`,
            borderRadius: 2,
            display: 'grid',
            placeItems: 'center',
            bgcolor: 'rgba(0, 0, 0, 0.45)',
            color: '#fff',
            pointerEvents: 'none',
            fontSize: 15,
          }}
        >
          {invitation}
        </Box>
      )}
    </Box>
  );
}
