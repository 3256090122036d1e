import {
  Camera,
  ChartScatter,
  ChevronDown,
  ChevronUp,
  Columns2,
  Columns3,
  Copy,
  Eye,
  EyeOff,
  Keyboard,
  List,
  type LucideIcon,
  Moon,
  Pause,
  Play,
  Plus,
  Redo2,
  RotateCcw,
  ShieldCheck,
  SkipBack,
  SkipForward,
  SlidersHorizontal,
  Spline,
  StepBack,
  StepForward,
  StickyNote,
  Sun,
  Trash2,
  Undo2,
  X,
} from 'lucide-react';
import type { ReactElement } from 'react';

/** Which icon of the set stands for what: one place, so that the same thing looks the same everywhere. */
const ICONS = {
  shots: List,
  bench: SlidersHorizontal,
  play: Play,
  pause: Pause,
  first: SkipBack,
  last: SkipForward,
  previous: StepBack,
  next: StepForward,
  undo: Undo2,
  redo: Redo2,
  reset: RotateCcw,
  sun: Sun,
  moon: Moon,
  copy: Copy,
  close: X,
  check: ShieldCheck,
  add: Plus,
  down: ChevronDown,
  up: ChevronUp,
  free: Trash2,
  keys: Keyboard,
  compare: Columns2,
  eye: Eye,
  hidden: EyeOff,
  camera: Camera,
  note: StickyNote,
  record: ChartScatter,
  three: Columns3,
  curve: Spline,
} as const satisfies Record<string, LucideIcon>;

export type IconName = keyof typeof ICONS;

export function Icon({ name, size = 18 }: { name: IconName; size?: number }): ReactElement {
  const Shown = ICONS[name];
  return <Shown size={size} strokeWidth={1.8} aria-hidden />;
}
