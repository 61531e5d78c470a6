/** A page that answers may lead to: an address, and whatever lies below it. */
export const NEXT_PAGE_PATTERN =
  /^(https:\/\/[a-z0-9][a-z0-9.-]*|http:\/\/(127\.0\.0\.1|localhost))(:\d{1,5})?(\/[A-Za-z0-9\-._~!$&'()*+,;=:@%/]*)?$/i;

/** A segment of a path that leads up, or stays, also where it is percent-encoded (RFC 3986, section 5.2.4). */
const DOTS = /(^|\/)(\.|%2e){1,2}($|\/)/i;

/**
 * Whether an address is one of those allowed, or lies below one. It is compared as text up to the end of a segment, so that
 * neither another host nor a way up the path passes for what was allowed.
 */
export function isAllowedPage(address: string, allowed: readonly string[]): boolean {
  if (/[\s\\]/.test(address) || DOTS.test(address.replace(/[?#].*$/, ''))) return false;
  const lower = (text: string): string => text.replace(/^[a-z]+:\/\/[^/?#]*/i, (origin) => origin.toLowerCase());
  const own = lower(address);
  return allowed.some((page) => {
    const base = lower(page).replace(/\/$/, '');
    return own === base || (own.startsWith(base) && /^[/?#]/.test(own.slice(base.length)));
  });
}
