import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { bind, id, text, refOrNone, time, json } from './define.ts';

/* Settings of the house. */

/** Settings of the house: the naming rule, the term calendar. */
export class SettingRow extends Model<InferAttributes<SettingRow>, InferCreationAttributes<SettingRow>> {
  declare name: string;
  declare value: unknown;
}

/** A decision under a name, for any course. */
export class MendRule extends Model<InferAttributes<MendRule>, InferCreationAttributes<MendRule>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare content: unknown;
  declare madeBy: number | null;
  declare madeAt: Date;
}

export function bindSettings(sequelize: Sequelize): void {
  bind(sequelize, SettingRow, 'house', { name: { ...text, primaryKey: true }, value: json });
  bind(sequelize, MendRule, 'mend_rules', { id, name: text, content: json, madeBy: refOrNone, madeAt: time });
}
