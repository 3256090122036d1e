/** Words a tile that the kernel tileStatistics writes, and which of them says where in the tile matter is. */
export const STATISTICS_WORDS = 12;
export const PLACES_WORD = 8;
