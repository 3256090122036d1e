// The part of Plotly that Ruddle uses; its own modules have no types.
declare module 'plotly.js/lib/core' {
  const Plotly: {
    register(modules: unknown[]): void;
    react(element: HTMLElement, data: object[], layout: object, config: object): Promise<void>;
    purge(element: HTMLElement): void;
    Plots: { resize(element: HTMLElement): void };
  };
  export default Plotly;
}
declare module 'plotly.js/lib/scatter' {
  const scatter: object;
  export default scatter;
}
