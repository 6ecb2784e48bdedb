import { z } from 'zod';
import { removeWorkflow } from '../../../../app/removal.ts';
import { getSheet } from '../../../../app/sheet.ts';
import { renameWorkflow, saveDraft } from '../../../../app/workflows.ts';
import { Definition } from '../../../../core/workflow/definition.ts';
import { changes, does, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getSheet(use, id!));
export const PUT = changes(z.object({ revision: z.number().int(), draft: Definition }), (use, input, { id }) =>
  saveDraft(use, id!, input),
);
const Name = z.object({
  name: z.string().trim().min(1, 'Give the workflow a name').max(120),
  folder: z.string().trim().max(60),
});
export const POST = changes(Name, (use, input, { id }) => renameWorkflow(use, id!, input));
export const DELETE = does((use, { id }, query) => removeWorkflow(use, id!, query.get('agreed') === '1'));
