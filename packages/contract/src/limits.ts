/** Limits that pages go by too, apart from the schemas, so that a page needn't load those. */

/** How many rows one request may begin. */
export const MAX_IMPORTED = 100;
/** How many records one request may hand on. */
export const MAX_HANDED_ON = 100;

/** How many other workflows one publication may make versions of. */
export const MAX_PUBLISHED_ALONG = 49;

/** Where files are handed over in parts, by the tus protocol. */
export const UPLOADS_PATH = '/api/uploads';
