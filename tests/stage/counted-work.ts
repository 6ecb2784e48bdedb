import { type Profiler, Session } from 'node:inspector';

/**
 * How much a piece of work does, counted instead of timed: V8 counts how often each block of each script (ours, the libraries', Node's) is gone through.
 * The same work gives the same count beside any neighbour. What happens within one call into the engine (a pattern, `indexOf`) counts as one.
 */
export class WorkCounter {
  private readonly session = new Session();

  private post<Answer>(method: string, params: object = {}): Promise<Answer> {
    return new Promise((resolve, reject) =>
      this.session.post(method, params, (problem: Error | null, answer?: object) =>
        problem ? reject(problem) : resolve(answer as Answer),
      ),
    );
  }

  async start(): Promise<void> {
    this.session.connect();
    await this.post('Profiler.enable');
    await this.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
  }

  /** Blocks gone through since the last count. */
  async count(): Promise<number> {
    const { result } = await this.post<Profiler.TakePreciseCoverageReturnType>('Profiler.takePreciseCoverage');
    let blocks = 0;
    for (const { functions } of result)
      for (const { ranges } of functions) for (const { count } of ranges) blocks += count;
    return blocks;
  }

  async stop(): Promise<void> {
    await this.post('Profiler.stopPreciseCoverage');
    this.session.disconnect();
  }
}
