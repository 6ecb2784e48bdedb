/** What a lead is called by, as its row has it. */
export interface Named {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
}

export const leadName = (row: Named): string =>
  `${row.first_name} ${row.last_name}`.trim() || row.email || row.phone || 'Without a name';
