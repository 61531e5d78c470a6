/** Any JSON value. */
export type Json = null | boolean | number | string | readonly Json[] | { readonly [key: string]: Json };

/** An object without a prototype, so that no key (`__proto__` included) can reach one. */
export const makeDictionary = <T>(): Record<string, T> => Object.create(null) as Record<string, T>;

/** Reads an own property; never one of a prototype. */
export const ownValue = <T>(object: Readonly<Record<string, T>>, key: string): T | undefined =>
  Object.hasOwn(object, key) ? object[key] : undefined;
