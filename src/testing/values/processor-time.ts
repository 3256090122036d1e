/**
 * Seconds of processor that this process takes for some work, all of its threads together. Unlike the clock it does not tell how busy the machine is with other things: a
 * test may judge by it.
 */
export async function processorSeconds(work: () => unknown): Promise<number> {
  const before = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6;
}
