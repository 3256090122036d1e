import type { ReactElement } from 'react';

/** The mark: an angular lump of red ochre. */
export const Mark = ({ size = 28 }: { size?: number }): ReactElement => (
  <svg width={size} height={size} viewBox="0 0 32 32" role="img" aria-label="Ruddle">
    <path d="M7 12 14 4l10 2 4 11-5 10-12 1-7-8z" fill="#b5452f" />
    <path d="M7 12 14 4l3 9z" fill="#d0654c" />
    <path d="M14 4l10 2-7 7z" fill="#e8866d" />
    <path d="M24 6l4 11-11-4z" fill="#c2523a" />
    <path d="M4 20l3-8 10 1-6 15z" fill="#8f3424" />
    <path d="M17 13l11 4-5 10-12 1z" fill="#a33d29" />
  </svg>
);
