import { Fragment } from 'react';
import { referenceLabel } from '../core/template/field-reference.ts';
import { templatePieces } from '../core/template/template.ts';

/** The line of a step's card, its fields by their names. `labels` are those of the source's own fields, by key. */
export const CardLine = ({ line, labels }: { line: string; labels?: ReadonlyMap<string, string> }) =>
  templatePieces(line).map((piece, i) =>
    piece.kind === 'text' ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one text stand in its order
      <Fragment key={i}>{piece.text}</Fragment>
    ) : (
      // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one text stand in its order
      <span key={i} className="chip !min-h-0 !text-xs">
        {piece.reference ? referenceLabel(piece.reference, labels) : 'field'}
      </span>
    ),
  );
