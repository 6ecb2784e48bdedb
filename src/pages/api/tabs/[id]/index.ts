import { ChangeTab, changeTab, deleteTab } from '../../../../app/sheets.ts';
import { changes, does } from '../../../../web/endpoint.ts';

export const PUT = changes(ChangeTab, (use, input, { id }) => changeTab(use, id!, input));
export const DELETE = does((use, { id }, query) => deleteTab(use, id!, query.get('agreed') === '1'));
