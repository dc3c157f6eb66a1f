import type { QueryInterface } from 'sequelize';

/** Descriptions of archives, every version of them. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`CREATE TABLE IF NOT EXISTS descriptions (
    id INT AUTO_INCREMENT PRIMARY KEY,
    archive VARCHAR(40) NOT NULL,
    version INT NOT NULL,
    text MEDIUMTEXT NOT NULL,
    in_use BOOLEAN NOT NULL,
    note VARCHAR(300) NOT NULL,
    changed_by INT NULL,
    changed_at DATETIME(3) NOT NULL,
    UNIQUE KEY (archive, version)
  )`);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('DROP TABLE IF EXISTS descriptions');
}
