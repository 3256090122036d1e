export interface Command {
  readonly summary: string;
  readonly help: string;
  run(args: readonly string[]): Promise<number>;
}
