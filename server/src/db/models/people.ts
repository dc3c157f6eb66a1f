import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { MailChoice, Role } from '../../contract/index.ts';
import { bind, id, text, ref, refOrNone, time, json, jsonOrNone } from './define.ts';

/* People, and what they asked to be kept for them. */

export class User extends Model<InferAttributes<User>, InferCreationAttributes<User>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare email: string;
  declare role: Role;
  declare passwordHash: string;
  declare mail: CreationOptional<MailChoice | null>;
}

export class Session extends Model<InferAttributes<Session>, InferCreationAttributes<Session>> {
  declare tokenHash: string;
  declare userId: number;
  declare expiresAt: Date;
}

export class SavedFilter extends Model<InferAttributes<SavedFilter>, InferCreationAttributes<SavedFilter>> {
  declare id: CreationOptional<number>;
  declare userId: number;
  declare name: string;
  declare filter: unknown;
}

export class AuditEntry extends Model<InferAttributes<AuditEntry>, InferCreationAttributes<AuditEntry>> {
  declare id: CreationOptional<number>;
  declare at: Date;
  declare userId: number | null;
  declare act: string;
  declare subject: string;
  declare detail: unknown;
}

export function bindPeople(sequelize: Sequelize): void {
  bind(sequelize, User, 'users', { id, name: text, email: text, role: text, passwordHash: text, mail: jsonOrNone });
  bind(sequelize, Session, 'sessions', { tokenHash: { ...text, primaryKey: true }, userId: ref, expiresAt: time });
  bind(sequelize, SavedFilter, 'saved_filters', { id, userId: ref, name: text, filter: json });
  bind(sequelize, AuditEntry, 'audit', { id, at: time, userId: refOrNone, act: text, subject: text, detail: json });
}
