/** Standard acceleration of free fall, m/s^2 (3rd CGPM, 1901): one number for everything that falls, rises or is scaled by it. */
export const GRAVITY = 9.80665;
