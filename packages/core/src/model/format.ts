/** The format of definition files. */
export const FORMAT = 'ypomet.workflow/1';
