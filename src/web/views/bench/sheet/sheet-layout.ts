/** Room for what takes a value away, kept in every row: all controls of a sheet end at one edge. */
export const CLEAR_SLOT = 20;
/** Width of a control; a list with longer names is wider. */
export const CONTROL = 96;
