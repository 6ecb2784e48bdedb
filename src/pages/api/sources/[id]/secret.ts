import { showSourceSecret } from '../../../../app/sources.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does(async (use, { id }) => ({ secret: await showSourceSecret(use, id!) }));
