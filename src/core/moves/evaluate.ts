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

/** Why a tree has no value, and where in its text; null when it has one. */
export interface Undefined {
  readonly column: number;
  readonly reason: string;
}

/** The innermost place where numbers turn into none: what lies around it only passes that on. */
export function whyUndefined(node: Node, scope: Scope): Undefined | null {
  const value = evaluateNode(node, scope);
  if (Number.isFinite(value)) return null;
  switch (node.kind) {
    case 'number':
    case 'variable':
      return { column: 1, reason: 'a number without a value' };
    case 'setting':
      return { column: node.column, reason: `${node.path} has no value there` };
    case 'minus':
      return whyUndefined(node.of, scope);
    case 'binary': {
      const inside = whyUndefined(node.left, scope) ?? whyUndefined(node.right, scope);
      if (inside) return inside;
      const [left, right] = [evaluateNode(node.left, scope), evaluateNode(node.right, scope)];
      const { column } = node;
      if ((node.op === '/' && right === 0) || (node.op === '^' && left === 0 && right < 0)) return { column, reason: 'a division by zero' };
      if (Number.isNaN(value)) return { column, reason: `a negative number to the power of ${String(right)}` };
      return { column, reason: 'an overflow: the result is larger than any number' };
    }
    case 'call': {
      for (const arg of node.args) {
        const inside = whyUndefined(arg, scope);
        if (inside) return inside;
      }
      const { column, name } = node;
      const first = evaluateNode(node.args[0] ?? node, scope);
      if (name === 'sqrt') return { column, reason: `the root of ${String(first)}` };
      if (name === 'log') return { column, reason: `the logarithm of ${String(first)}` };
      if (name === 'smoothstep') return { column, reason: 'a smoothstep between two equal limits' };
      return { column, reason: `an overflow: ${name} of ${String(first)} is larger than any number` };
    }
  }
}
