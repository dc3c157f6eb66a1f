import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import type { InstanceSummary } from '../api/contract.ts';
import { Instance } from '../db/models.ts';
import { connectTo, type Connector } from '../platforms/index.ts';

/** Credentials are AES-256-GCM at rest: nonce, tag, text. They never leave the server again. */
export function sealCredential(secret: Buffer, credential: string): Buffer {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', secret, nonce);
  const text = Buffer.concat([cipher.update(credential, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), text]);
}

export function openCredential(secret: Buffer, sealed: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', secret, sealed.subarray(0, 12));
  decipher.setAuthTag(sealed.subarray(12, 28));
  return Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()]).toString('utf8');
}

export interface NewInstance {
  name: string;
  platform: string;
  baseUrl: string;
  credential: string;
}

/** Adds an instance, or gives an existing one of that name its new address and credential. */
export async function addInstance(secret: Buffer, instance: NewInstance): Promise<Instance> {
  const connector = connectTo(instance.platform, instance.baseUrl, instance.credential);
  const values = {
    name: instance.name,
    platform: instance.platform,
    baseUrl: instance.baseUrl,
    credential: sealCredential(secret, instance.credential),
    gives: connector.giver !== null,
    takes: connector.taker !== null,
  };
  const before = await Instance.findOne({ where: { name: instance.name } });
  return before ? before.update(values) : Instance.create(values);
}

export function connectorOf(secret: Buffer, instance: Instance): Connector {
  return connectTo(instance.platform, instance.baseUrl, openCredential(secret, instance.credential));
}

export async function listInstances(): Promise<InstanceSummary[]> {
  const rows = await Instance.findAll({ order: [['name', 'ASC']] });
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    platform: row.platform,
    gives: row.gives,
    takes: row.takes,
    leaving: row.cutOff !== null,
    listedAt: row.listedAt?.toISOString() ?? null,
    trouble: row.trouble,
  }));
}
