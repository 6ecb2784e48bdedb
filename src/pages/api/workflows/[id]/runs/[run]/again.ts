import { RunAgain, runAgain } from '../../../../../../app/log.ts';
import { takes } from '../../../../../../web/endpoint.ts';

export const POST = takes(RunAgain, (use, input, { id, run }) => runAgain(use, id!, run!, input));
