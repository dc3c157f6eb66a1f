import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { Refusal, problem } from '@treenail/core';
import type { InstanceSummary } from '../contract/index.ts';
import { Instance } from '../db/models/index.ts';
import { connectTo, isConnected, type Connector } from '../platforms/index.ts';

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
    gives: connector.source !== null,
    takes: connector.destination !== null,
  };
  const before = await Instance.findOne({ where: { name: instance.name } });
  return before ? before.update(values) : Instance.create(values);
}

/** @throws Refusal `key-wrong` where the key of this Treenail does not open what is kept */
export function connectorOf(secret: Buffer, instance: Instance): Connector {
  const token = isConnected(instance.platform) ? tokenOf(secret, instance) : '';
  return connectTo(instance.platform, instance.baseUrl, token);
}

function tokenOf(secret: Buffer, instance: Instance): string {
  try {
    return openCredential(secret, instance.credential);
  } catch (error) {
    throw new Refusal(
      problem(
        'key-wrong',
        `The token of ${instance.name} can not be opened: the key of this Treenail is another than the one it was kept with.`,
      ),
      { cause: error },
    );
  }
}

/** What kind of platform an instance is, whether or not its token can be opened. Asks it nothing. */
export function kindOf(instance: Instance): Connector {
  return connectTo(instance.platform, instance.baseUrl, '');
}

export async function listInstances(): Promise<InstanceSummary[]> {
  const rows = await Instance.findAll({ order: [['name', 'ASC']] });
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    platform: row.platform,
    gives: row.gives,
    takes: row.takes,
    fetches: kindOf(row).source !== null,
    leaving: row.cutOff !== null,
    listedAt: row.listedAt?.toISOString() ?? null,
    trouble: row.trouble,
  }));
}
