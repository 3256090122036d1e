/** Of one press: degrees, a part of the picture's height, and the part of the distance that is left. */
const TURN = 7.5;
const SHIFT = 0.08;
const NEARER = 0.85;

interface Camera {
  turn(aside: number, up: number): void;
  shift(aside: number, up: number): void;
  nearer(by: number): void;
}

const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** Moves a camera as a key says; whether the key says anything. With Shift the arrow keys shift instead of turning. */
export function moveByKey(camera: Camera, key: string, shift: boolean, seeAll: () => void): boolean {
  const arrow = ARROWS[key];
  if (arrow) {
    const [aside, up] = arrow;
    if (shift) camera.shift(aside * SHIFT, up * SHIFT);
    else camera.turn(aside * TURN, up * TURN);
  } else if (key === '+' || key === '=') camera.nearer(NEARER);
  else if (key === '-' || key === '_') camera.nearer(1 / NEARER);
  else if (key === 'Home') seeAll();
  else return false;
  return true;
}
