import { useTheme } from '@mui/material/styles';
import { colours, type Colours } from './theme';

export const useColours = (): Colours => colours[useTheme().palette.mode];
