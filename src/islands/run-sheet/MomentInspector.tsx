import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Plus from 'lucide-react/icons/plus';
import Trash2 from 'lucide-react/icons/trash-2';
import { ConditionEditor } from '../../components/ConditionEditor.tsx';
import { Bare } from '../../components/fields.tsx';
import { Tool } from '../../components/Tool.tsx';
import type { Condition } from '../../core/condition/condition.ts';
import type { At } from '../../core/workflow/at.ts';
import type { Case, Definition, Moment } from '../../core/workflow/definition.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { AtEditor } from './AtEditor.tsx';

interface Props {
  moment: Moment;
  first: boolean;
  canUp: boolean;
  canDown: boolean;
  catalogue: Catalogue;
  definition: Definition;
  onAt: (at: At) => void;
  onOnlyIf: (condition: Condition | null) => void;
  onAddCase: () => void;
  onCase: (caseId: string, patch: Partial<Case>) => void;
  onRemoveCase: (caseId: string) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}

/** The chosen moment: when it begins, under which condition, and its cases. */
export function MomentInspector(props: Props) {
  const { moment, first, catalogue } = props;
  return (
    <div className="p-3.5">
      <div className="mb-3 flex items-start gap-1">
        <h2 className="grow text-part">{first ? 'On arrival' : 'A later moment'}</h2>
        {!first && (
          <>
            <Tool label="Move up" disabled={!props.canUp} onClick={() => props.onMove(-1)}>
              <ArrowUp className="size-4" />
            </Tool>
            <Tool label="Move down" disabled={!props.canDown} onClick={() => props.onMove(1)}>
              <ArrowDown className="size-4" />
            </Tool>
            <Tool label="Remove this moment" onClick={props.onRemove}>
              <Trash2 className="size-4" />
            </Tool>
          </>
        )}
      </div>
      {first ? (
        <p className="mb-3 text-note text-ink-2">It begins the moment a lead comes in.</p>
      ) : (
        <AtEditor at={moment.at} catalogue={catalogue} definition={props.definition} onAt={props.onAt} />
      )}
      <ConditionEditor label="Only if" value={moment.onlyIf} catalogue={catalogue} onChange={props.onOnlyIf} />
      <h3 className="field-label">Cases</h3>
      <p className="mb-2 text-note text-ink-2">
        {moment.cases.length === 0
          ? 'Without cases the same happens for everybody.'
          : 'The first that fits is taken; when none does, "Otherwise".'}
      </p>
      {moment.cases.map((eachCase, i) => (
        <section key={eachCase.id} className="mb-2 rounded-lg border border-base-300 p-2" aria-label={`Case ${i + 1}`}>
          <div className="mb-1 flex items-center gap-1">
            <Bare
              tiny
              label="Name of the case"
              className="grow"
              placeholder={`Case ${i + 1}`}
              maxLength={60}
              value={eachCase.name}
              onChange={(typed) => props.onCase(eachCase.id, { name: typed })}
            />
            <Tool label="Remove this case" onClick={() => props.onRemoveCase(eachCase.id)}>
              <Trash2 className="size-4" />
            </Tool>
          </div>
          <ConditionEditor
            label="When"
            value={eachCase.when}
            catalogue={catalogue}
            onChange={(when) => props.onCase(eachCase.id, { when: when ?? { all: [] } })}
          />
        </section>
      ))}
      <button type="button" className="btn btn-plain btn-sm" onClick={props.onAddCase}>
        <Plus className="size-4" aria-hidden="true" />
        Add a case
      </button>
    </div>
  );
}
