import Plotly from 'plotly.js/lib/core';
import scatter from 'plotly.js/lib/scatter';
import { type ReactElement, useEffect, useRef } from 'react';
import { useColours } from '#web/ui';
import type { ChartProps } from './types';

Plotly.register([scatter]);

/** A Plotly chart in Ruddle's colours. */
export default function Chart({ data, layout, height, label }: ChartProps): ReactElement {
  const c = useColours();
  const holder = useRef<HTMLDivElement>(null);
  // Plotly draws in pieces, between which the page goes on: each call waits for the one before, the last of all takes the chart away. A chart that is
  // taken away in the middle of a drawing throws from Plotly's own timers, where nobody can catch it.
  const drawn = useRef<Promise<unknown>>(Promise.resolve());
  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const axis = (given: unknown): object => {
      const own = (given ?? {}) as { readonly title?: object };
      return {
        gridcolor: c.line,
        zerolinecolor: c.line,
        linecolor: c.line,
        tickfont: { family: 'JetBrains Mono Variable, monospace', size: 11 },
        ...own,
        ...(own.title ? { title: { ...own.title, font: { size: 12 } } } : {}),
      };
    };
    const draw = (): Promise<unknown> =>
      Plotly.react(
        element,
        data as object[],
        {
          paper_bgcolor: 'rgba(0,0,0,0)',
          plot_bgcolor: 'rgba(0,0,0,0)',
          font: { family: 'Hanken Grotesk Variable, sans-serif', size: 12, color: c.text },
          margin: { l: 58, r: 12, t: 10, b: 40 },
          showlegend: false,
          hoverlabel: { bgcolor: c.raised, bordercolor: c.line, font: { color: c.text } },
          colorway: [c.fresh, c.selected, c.warning, c.failed],
          ...layout,
          xaxis: axis(layout['xaxis']),
          yaxis: axis(layout['yaxis']),
        },
        { displayModeBar: false },
      );
    drawn.current = drawn.current.then(draw);
  }, [data, layout, c]);
  useEffect(() => {
    const element = holder.current;
    if (!element) return undefined;
    const fit = (): unknown => (element.clientWidth > 0 ? Plotly.Plots.resize(element) : undefined);
    const observer = new ResizeObserver(() => {
      drawn.current = drawn.current.then(fit);
    });
    observer.observe(element);
    return () => {
      observer.disconnect();
      void drawn.current.finally(() => {
        Plotly.purge(element);
      });
    };
  }, []);
  return <div ref={holder} role="img" aria-label={label} style={{ width: '100%', height }} />;
}
