import { describeOutline, type OutlineItem, type Remark, type Wording } from '@ypomet/core';

/** What a remark says, in a sentence. */
export function remarkSentence(remark: Remark, item: OutlineItem, other: OutlineItem | null, wording: Wording): string {
  const beside = other ? `“${describeOutline(other, wording)}”` : 'the others';
  switch (remark.code) {
    case 'twice':
      return 'Stands here twice.';
    case 'never':
      return `Never true together with ${beside}.`;
    case 'always':
      return `One of this and ${beside} is always true.`;
    case 'holds-while-empty': {
      const subject = item.kind === 'clause' && item.subject.kind === 'field' ? wording.nameOf(item.subject.path) : 'it';
      return `Also true while ${subject} is empty.`;
    }
    default:
      return remark.code satisfies never;
  }
}
