import { z } from 'zod';
import {
  addListField,
  changeList,
  changeMember,
  changeMemberFields,
  createList,
  ListInput,
} from '../app/lists/lists.ts';
import { createSequence } from '../app/lists/sequences.ts';
import { removeList } from '../app/workflows/removal.ts';
import { doors } from './route.ts';

const FieldName = z.object({ name: z.string().trim().min(1, 'Give the field a name').max(60) });

const MemberChange = z.union([
  z.object({ on: z.boolean() }),
  z.object({ fields: z.record(z.string().max(60), z.string().max(1000, 'A field holds 1,000 characters at most')) }),
]);

const SequenceName = z.object({ name: z.string().trim().min(1, 'Give the sequence a name').max(120) });

const ListName = z.object({ name: z.string().trim().min(1, 'Give the list a name').max(60) });

const { writes, writesAlone } = doors('see-setup', 'build');

export const listsRoutes = [
  writes('POST', '/lists/:list/fields', FieldName, (tx, { name }, { list }) => addListField(tx, list, name)),
  writes('PUT', '/lists/:list', ListInput, (tx, input, { list }) => changeList(tx, list, input)),
  writesAlone('DELETE', '/lists/:list', (tx, { list }) => removeList(tx, list)),
  writes(
    'PUT',
    '/lists/:list/members/:lead',
    MemberChange,
    (tx, input, { list, lead }) =>
      'on' in input ? changeMember(tx, list, lead, input.on) : changeMemberFields(tx, list, lead, input.fields),
    'do-work',
  ),
  writes('POST', '/lists/:list/sequences', SequenceName, (tx, { name }, { list }) => createSequence(tx, list, name)),
  writes('POST', '/lists', ListName, (tx, { name }) => createList(tx, name)),
] as const;
