import type { Workflow } from '../model/workflow.ts';
import { applyEdit } from './apply-edit.ts';
import type { EditContext, EditKind } from './edit.ts';
import { EDIT_KINDS, type Edit, type SingleEdit } from './registry.ts';
import { pathAfter, type Rename } from './renamed-paths.ts';

/** A definition, and edits that are made to it one after another. */
export type Made = { readonly definition: Workflow; readonly edits: readonly Edit[] };

/**
 * Returns a definition and edits of it as they are after renamings that somebody else made first: the paths, keys and
 * expressions that the edits hold name what they named before. For each renaming `r` and the first edit `e`:
 * `r` then the returned edit gives what `e` then `r` would have given. If both can't be made (the edit adds a part with the key
 * that the renaming gives), only the paths of the edit follow, and applying it says what stands against it.
 */
export function followRenames(made: Made, renames: readonly Rename[], context: EditContext): Made {
  return renames.reduce((current, rename) => followRename(current, rename, context), made);
}

function followRename({ definition, edits }: Made, rename: Rename, context: EditContext): Made {
  const follower = new Follower(definition, rename, context);
  const followed = edits.map((edit) => follower.follow(edit));
  return { definition: renamed(definition, rename, context) ?? definition, edits: followed };
}

/** The definition with a renaming made in it; the same where it doesn't hold the part; null where the renaming can't be made. */
function renamed(definition: Workflow, { part, key }: Rename, context: EditContext): Workflow | null {
  const result = applyEdit(definition, { type: 'rename-key', part, key }, context);
  if (result.ok) return result.value.definition;
  return result.diagnostics.every(({ code }) => code === 'edit/unknown-part') ? definition : null;
}

/** Goes through edits in order, and knows the definition before each. */
class Follower {
  constructor(
    private before: Workflow,
    private rename: Rename,
    private readonly context: EditContext,
  ) {}

  follow(edit: Edit): Edit {
    if (edit.type === 'together') {
      const followed = edit.edits.map((own) => this.follow(own));
      return { ...edit, edits: followed.flatMap((own) => (own.type === 'together' ? own.edits : [own])) };
    }
    const { before, rename, context } = this;
    const applied = applyEdit(before, edit, context);
    const after = applied.ok ? applied.value.definition : null;
    this.before = after ?? before;
    // A part that holds the renamed one has another key from here on. Where the edit renames that very part, its own key stands.
    if (after && edit.type === 'rename-key' && edit.part !== rename.part)
      this.rename = { ...rename, part: pathAfter(rename.part, edit) };
    const find = () => {
      const [renamedBefore, renamedAfter] = [before, after].map((one) => one && renamed(one, rename, context));
      return after && renamedBefore && renamedAfter ? { after, renamedBefore, renamedAfter } : null;
    };
    return mapOf(edit)(edit, { rename, find });
  }
}

const mapOf = <E extends SingleEdit>(edit: E) => (EDIT_KINDS[edit.type] as unknown as EditKind<E, Edit, Edit>).map;
