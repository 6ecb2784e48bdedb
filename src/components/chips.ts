import type { Extension } from '@codemirror/state';
import {
  Decoration,
  type DecorationSet,
  EditorView,
  MatchDecorator,
  ViewPlugin,
  type ViewUpdate,
  WidgetType,
} from '@codemirror/view';
import { referenceLabel } from '../core/template/field-reference.ts';
import type { Argument } from '../core/template/filter-call.ts';
import { filterOf } from '../core/template/filters/registry.ts';
import { templatePieces } from '../core/template/template.ts';

/** A chip that was pressed: from where to where it stands, and where its menu opens, in pixels within the field. */
export interface OpenChip {
  from: number;
  to: number;
  source: string;
  left: number;
  top: number;
}

class Chip extends WidgetType {
  constructor(
    readonly source: string,
    readonly labels: ReadonlyMap<string, string>,
  ) {
    super();
  }
  override eq(other: Chip) {
    return other.source === this.source;
  }
  override toDOM() {
    const element = document.createElement('span');
    element.className = 'chip cursor-pointer align-baseline';
    const [piece] = templatePieces(this.source);
    if (piece?.kind !== 'field' || !piece.reference) {
      element.textContent = this.source;
      return element;
    }
    element.append(referenceLabel(piece.reference, this.labels));
    for (const filter of piece.filters) {
      const word = document.createElement('span');
      word.className = 'tidying';
      word.textContent =
        filterOf(filter.name)?.words(filter.args.map((arg) => argumentWords(arg, this.labels))) ?? filter.name;
      element.append(word);
    }
    return element;
  }
  override ignoreEvent() {
    return false;
  }
}

const argumentWords = (arg: Argument, labels: ReadonlyMap<string, string>): string =>
  'text' in arg ? arg.text : 'reference' in arg ? referenceLabel(arg.reference, labels) : arg.unknown;

const TOKEN = /\{\{[^{}]*\}\}/g;

/** Shows every field in the text as a chip, which is gone over as one letter; pressed, it is given to `open`. */
export function chips(labels: ReadonlyMap<string, string>, open: (chip: OpenChip) => void): Extension {
  const matcher = new MatchDecorator({
    regexp: TOKEN,
    decoration: (match) => Decoration.replace({ widget: new Chip(match[0], labels) }),
  });
  const plugin = ViewPlugin.fromClass(
    class {
      decorations: DecorationSet;
      constructor(view: EditorView) {
        this.decorations = matcher.createDeco(view);
      }
      update(update: ViewUpdate) {
        this.decorations = matcher.updateDeco(update, this.decorations);
      }
    },
    {
      decorations: (self) => self.decorations,
      provide: (self) => EditorView.atomicRanges.of((view) => view.plugin(self)?.decorations ?? Decoration.none),
      eventHandlers: {
        mousedown(event, view) {
          const element = (event.target as HTMLElement).closest<HTMLElement>('.chip');
          if (!element) return false;
          const from = view.posAtDOM(element);
          const source = /^\{\{[^{}]*\}\}/.exec(view.state.sliceDoc(from))?.[0];
          if (!source) return false;
          const box = element.getBoundingClientRect();
          const host = view.dom.getBoundingClientRect();
          open({
            from,
            to: from + source.length,
            source,
            left: Math.max(0, Math.min(box.left - host.left, host.width - 190)),
            top: box.bottom - host.top + 4,
          });
          return true;
        },
      },
    },
  );
  return plugin;
}
