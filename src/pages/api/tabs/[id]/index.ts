import { ChangeTab, changeTab, deleteTab } from '../../../../app/sheets.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const PUT = takes(ChangeTab, (use, input, { id }) => changeTab(use, id!, input));
export const DELETE = gives((use, { id }, query) => deleteTab(use, id!, query.get('agreed') === '1'));
