import { BlockList, isIP } from 'node:net';
import type { Exchange } from '#core/model';

const PRIVATE = new BlockList();
for (const [net, prefix] of [
  ['10.0.0.0', 8],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['100.64.0.0', 10],
  ['192.168.0.0', 16],
  ['0.0.0.0', 8],
] as const)
  PRIVATE.addSubnet(net, prefix, 'ipv4');
for (const [net, prefix] of [
  ['::1', 128],
  ['fc00::', 7],
  ['fe80::', 10],
] as const)
  PRIVATE.addSubnet(net, prefix, 'ipv6');

/** Whether an address is this machine's or of a private network (RFC 1918, 4193, 6598); IPv4 inside IPv6 as what it is. */
export function isPrivate(address: string): boolean {
  const inner = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1] ?? address;
  return PRIVATE.check(inner, isIP(inner) === 6 ? 'ipv6' : 'ipv4');
}

/** Whether a captured exchange is known to have gone to a public address. */
export function wasPublic(captured: Exchange | undefined): boolean {
  const before = captured?.serverAddress?.replace(/^\[|\]$/g, '') ?? '';
  return isIP(before) > 0 && !isPrivate(before);
}
