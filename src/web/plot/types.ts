export interface ChartProps {
  /** Plotly traces. */
  readonly data: readonly object[];
  /** Plotly layout, over Ruddle's own. */
  readonly layout: Readonly<Record<string, unknown>>;
  readonly height: number;
  readonly label: string;
}
