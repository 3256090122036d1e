import { fractalNoise, hash3 } from '#core/math';
import type { BinaryOp, Node } from './parse';

/** What an expression may look at. */
export interface Scope {
  /** Seconds since the shot's first frame. */
  readonly time: number;
  /** Frame number, with its part between two frames. */
  readonly frame: number;
  readonly fps: number;
  /** The number as it stands on the sheet. */
  readonly value: number;
  /** Another setting at this moment. */
  readonly setting: (path: string) => number;
}

const BINARY: Readonly<Record<BinaryOp, (a: number, b: number) => number>> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '^': (a, b) => a ** b,
  '<': (a, b) => Number(a < b),
  '<=': (a, b) => Number(a <= b),
  '>': (a, b) => Number(a > b),
  '>=': (a, b) => Number(a >= b),
  '==': (a, b) => Number(a === b),
  '!=': (a, b) => Number(a !== b),
};

const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x));

/** The functions; angles in radians. */
const CALLS: Readonly<Record<string, (...args: number[]) => number>> = {
  sin: Math.sin,
  cos: Math.cos,
  tan: Math.tan,
  abs: Math.abs,
  min: Math.min,
  max: Math.max,
  floor: Math.floor,
  sqrt: Math.sqrt,
  exp: Math.exp,
  log: Math.log,
  clamp: (x = 0, low = 0, high = 1) => clamp(x, low, high),
  mix: (a = 0, b = 0, t = 0) => a + (b - a) * t,
  smoothstep: (low = 0, high = 1, x = 0) => {
    const t = clamp((x - low) / (high - low), 0, 1);
    return t * t * (3 - 2 * t);
  },
  // Smooth, within -1.5 to 1.5, feature size 1.
  noise: (x = 0, seed = 0) => 1.3 * fractalNoise(x, 0.37, 0.71, 0.13, Math.round(seed), 1),
  // 0 to 1, another for each whole number.
  random: (x = 0, seed = 0) => hash3(Math.floor(x), 17, 3, Math.round(seed)) / 4294967296,
};

/** Value of a tree; may be infinite or not a number where the mathematics is. */
export function evaluateNode(node: Node, scope: Scope): number {
  switch (node.kind) {
    case 'number':
      return node.value;
    case 'variable':
      return node.name === 'pi' ? Math.PI : scope[node.name as 'time' | 'frame' | 'fps' | 'value'];
    case 'minus':
      return -evaluateNode(node.of, scope);
    case 'binary':
      return BINARY[node.op](evaluateNode(node.left, scope), evaluateNode(node.right, scope));
    case 'setting':
      return scope.setting(node.path);
    case 'call':
      return CALLS[node.name]?.(...node.args.map((a) => evaluateNode(a, scope))) ?? NaN;
  }
}
