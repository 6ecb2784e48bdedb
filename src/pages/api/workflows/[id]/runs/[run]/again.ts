import { RunAgain, runAgain } from '../../../../../../app/log.ts';
import { changes } from '../../../../../../web/endpoint.ts';

export const POST = changes(RunAgain, (use, input, { id, run }) => runAgain(use, id!, run!, input));
