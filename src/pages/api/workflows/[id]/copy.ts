import { copyWorkflow } from '../../../../app/workflows.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does((use, { id }) => copyWorkflow(use, id!));
