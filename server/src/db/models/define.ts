import { DataTypes, type Model, type ModelAttributes, type ModelStatic, type Sequelize } from 'sequelize';

/* What models are made of. Their class fields are declared only: real ones would hide Sequelize's getters. */

/** Columns of the usual types. */
export const id = { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true };
export const text = { type: DataTypes.STRING, allowNull: false };
export const textOrNone = { type: DataTypes.STRING, allowNull: true };
export const number = { type: DataTypes.BIGINT, allowNull: false, defaultValue: 0 };
export const int = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 };
export const ref = { type: DataTypes.INTEGER, allowNull: false };
export const refOrNone = { type: DataTypes.INTEGER, allowNull: true };
export const time = { type: DataTypes.DATE(3), allowNull: false };
export const timeOrNone = { type: DataTypes.DATE(3), allowNull: true };
export const json = { type: DataTypes.JSON, allowNull: false };
export const jsonOrNone = { type: DataTypes.JSON, allowNull: true };
export const flag = { type: DataTypes.BOOLEAN, allowNull: false };

export const bytes = { type: DataTypes.BLOB, allowNull: false };
export const longText = { type: DataTypes.TEXT, allowNull: false };
export const longTextOrNone = { type: DataTypes.TEXT, allowNull: true };

export function bind<M extends Model>(
  sequelize: Sequelize,
  model: ModelStatic<M>,
  tableName: string,
  attributes: ModelAttributes<M>,
): void {
  // Each model gets attribute objects of its own: Sequelize writes the column's name into them.
  const own = Object.fromEntries(Object.entries(attributes).map(([name, a]) => [name, { ...(a as object) }]));
  model.init(own as ModelAttributes<M>, { sequelize, tableName, timestamps: false, underscored: true });
}
