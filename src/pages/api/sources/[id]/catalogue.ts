import { arrivalsByDay, fieldCatalogue } from '../../../../app/arrivals.ts';
import { gives } from '../../../../web/endpoint.ts';

export const GET = gives(async (use, { id }) => ({
  fields: await fieldCatalogue(use, id!),
  days: await arrivalsByDay(use, id!),
}));
