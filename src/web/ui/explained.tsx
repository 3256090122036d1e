import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { useColours } from './use-colours';

/** A title that explains itself when the pointer or the keyboard is on it. */
export function Explained({ title, help }: { title: string; help: string }): ReactElement {
  const c = useColours();
  return (
    <Tooltip title={help} placement="right">
      <span
        tabIndex={0}
        style={{
          cursor: 'help',
          borderBottom: `1px dotted ${c.line}`,
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
        }}
      >
        {title}
      </span>
    </Tooltip>
  );
}
