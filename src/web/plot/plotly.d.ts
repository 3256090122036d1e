// The part of Plotly that Ruddle uses; its own modules have no types.
declare module 'plotly.js/lib/core' {
  const Plotly: {
    register(modules: unknown[]): void;
    react(element: HTMLElement, data: object[], layout: object, config: object): Promise<unknown>;
    purge(element: HTMLElement): void;
    Plots: { resize(element: HTMLElement): Promise<unknown> | undefined };
  };
  export default Plotly;
}
declare module 'plotly.js/lib/scatter' {
  const scatter: object;
  export default scatter;
}
