import { lookup } from 'node:dns/promises';
import { BlockList, isIP } from 'node:net';
import { Refusal, problem } from '@treenail/core';
import ipaddr from 'ipaddr.js';

/** Which addresses are spoken to: public ones, and those at home that whoever runs Treenail has named. */

/** Ranges that lead inside by another name: local-use translation of IPv4 (RFC 8215). */
const INSIDE = new BlockList();
INSIDE.addSubnet('64:ff9b:1::', 48, 'ipv6');

/** Whether anybody could reach an address: neither of a house, nor of this machine, nor reserved. */
export function isPublic(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  if (isIP(address) === 6 && INSIDE.check(address, 'ipv6')) return false;
  return ipaddr.process(address).range() === 'unicast';
}

interface Home {
  hosts: ReadonlySet<string>;
  nets: BlockList;
}

/** @throws RangeError where a part is neither a host nor a net */
export function homeOf(text: string): Home {
  const hosts = new Set<string>();
  const nets = new BlockList();
  for (const part of text.split(/[\s,]+/).filter(Boolean)) {
    const [net = '', bits] = part.split('/');
    const version = isIP(net);
    if (version === 0 && bits !== undefined) throw new RangeError(`TREENAIL_HOME_NETS: ${part} is no net`);
    if (version === 0) hosts.add(part.toLowerCase());
    else
      nets.addSubnet(
        net,
        bits === undefined ? (version === 4 ? 32 : 128) : Number(bits),
        version === 4 ? 'ipv4' : 'ipv6',
      );
  }
  return { hosts, nets };
}

let home = homeOf('');

/** Set once, when a process begins. */
export function setHome(text: string): void {
  home = homeOf(text);
}

/** @throws Refusal `address-at-home` where an address of the house is not among those that may be spoken to */
export async function mustBeReachable(url: URL): Promise<void> {
  const host = url.hostname.replace(/^\[|\]$/g, '').toLowerCase();
  if (home.hosts.has(host)) return;
  // A host that nobody knows is told by whoever speaks to it.
  const found = isIP(host) ? [{ address: host }] : await lookup(host, { all: true }).catch(() => []);
  for (const { address } of found) {
    if (isPublic(address) || home.nets.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4')) continue;
    throw new Refusal(
      problem('address-at-home', `${host} is an address inside the house, and not one that Treenail may speak to.`),
    );
  }
}
