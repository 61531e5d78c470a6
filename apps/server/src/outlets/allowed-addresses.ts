import { lookup } from 'node:dns/promises';
import ipaddr from 'ipaddr.js';

/**
 * Whether a delivery may go to an address: those of the open network, and those that the configuration names. Any other, of
 * the machine or its network, could let a design ask what only the server can reach (OWASP, server side request forgery).
 */
export function isAllowedAddress(address: string, port: number, allowed: readonly string[]): boolean {
  if (allowed.includes(`${address}:${port}`) || allowed.includes(`[${address}]:${port}`)) return true;
  return ipaddr.isValid(address) && ipaddr.process(address).range() === 'unicast';
}

/**
 * Whether a host may be connected to at a port: by its name where the configuration names it, else by every address that its
 * name has. False too for a name that has none.
 */
export async function isAllowedHost(host: string, port: number, allowed: readonly string[]): Promise<boolean> {
  const name = host.replace(/^\[|\]$/g, '');
  if (allowed.includes(`${name}:${port}`) || allowed.includes(`[${name}]:${port}`)) return true;
  const found = ipaddr.isValid(name) ? [{ address: name }] : await lookup(name, { all: true }).catch(() => []);
  return found.length > 0 && found.every(({ address }) => isAllowedAddress(address, port, allowed));
}
