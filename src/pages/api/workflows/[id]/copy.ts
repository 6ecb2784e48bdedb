import { copyWorkflow } from '../../../../app/workflows.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => copyWorkflow(use, id!));
