/** Columns of the list; its head and its rows use the same. */
export const COLUMNS = '124px minmax(150px, 1.1fr) minmax(230px, 1.6fr) 120px 120px 110px 116px';
