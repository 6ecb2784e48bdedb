import type { Runtime } from '../runtime.ts';
import type { DemoMade } from './build.ts';

export async function writeHistory(_runtime: Runtime, _made: DemoMade, _seed: number): Promise<void> {}
