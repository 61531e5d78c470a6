import type { Field, SubField } from './field.ts';

/** The expression of a computed field or sub-field, else null. */
export const expressionOf = (field: Field | SubField): string | null =>
  'expression' in field && field.expression !== undefined ? field.expression : null;

/** Whether a computed field may be read by people who may not read all it is made from. */
export const isDisclosed = (field: Field | SubField): boolean => 'discloses' in field && field.discloses === true;

export const isComputed = (field: Field | SubField): boolean => expressionOf(field) !== null;

/** The expression of a field's or sub-field's default, else null. Computed fields have none. */
export const defaultOf = (field: Field | SubField): string | null =>
  'default' in field && field.default !== undefined && !isComputed(field) ? field.default : null;
