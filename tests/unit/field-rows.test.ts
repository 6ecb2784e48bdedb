import { expect } from 'chai';
import { addRow, fieldsOf, removeRow, renameRow, rowsOf } from '../../src/islands/lists/field-rows.ts';

const KEPT = [
  { key: 'instrument', label: 'Instrument' },
  { key: 'level', label: 'Level' },
  { key: 'town', label: 'Town' },
];

describe('the fields of a list, while they are edited', () => {
  it('a field keeps the key its members’ values lie under, whatever is removed above it and however it is renamed', () => {
    const rows = renameRow(removeRow(rowsOf(KEPT), 'instrument'), 'level', 'How far they are');
    expect(fieldsOf(rows)).to.deep.equal([
      { key: 'level', label: 'How far they are' },
      { key: 'town', label: 'Town' },
    ]);
  });
  it('a new one gets a key of its own from its name, also when that name or key is there already', () => {
    let rows = renameRow(addRow(rowsOf(KEPT), 'a'), 'a', 'Level');
    rows = renameRow(addRow(rows, 'b'), 'b', 'Level');
    rows = renameRow(addRow(rows, 'c'), 'c', '!!!');
    expect(fieldsOf(rows).map((listField) => listField.key)).to.deep.equal([
      'instrument',
      'level',
      'town',
      'level_2',
      'level_3',
      'field',
    ]);
  });
  it('a renamed one does not lend its old key to a new one of that name', () => {
    let rows = renameRow(rowsOf(KEPT), 'level', 'Grade');
    rows = renameRow(addRow(rows, 'a'), 'a', 'Level');
    expect(fieldsOf(rows))
      .to.deep.include({ key: 'level', label: 'Grade' })
      .and.to.deep.include({ key: 'level_2', label: 'Level' });
  });
  it('one without a name is none', () => {
    expect(fieldsOf(renameRow(addRow(rowsOf([]), 'a'), 'a', '  '))).to.deep.equal([]);
  });
});
