import type { QueryInterface } from 'sequelize';

const TABLES = [
  `CREATE TABLE IF NOT EXISTS users (
    id INT AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL,
    email VARCHAR(190) NOT NULL UNIQUE,
    role ENUM('administrator','instructor') NOT NULL,
    password_hash VARCHAR(200) NOT NULL
  )`,
  `CREATE TABLE IF NOT EXISTS sessions (
    token_hash CHAR(64) PRIMARY KEY,
    user_id INT NOT NULL,
    expires_at DATETIME(3) NOT NULL,
    FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS instances (
    id INT AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL UNIQUE,
    platform VARCHAR(40) NOT NULL,
    base_url VARCHAR(300) NOT NULL,
    credential VARBINARY(1000) NOT NULL,
    gives BOOLEAN NOT NULL,
    takes BOOLEAN NOT NULL,
    listed_at DATETIME(3) NULL,
    trouble VARCHAR(1000) NULL
  )`,
  `CREATE TABLE IF NOT EXISTS courses (
    id INT AUTO_INCREMENT PRIMARY KEY,
    instance_id INT NOT NULL,
    remote_id VARCHAR(120) NOT NULL,
    code VARCHAR(60) NOT NULL,
    section VARCHAR(30) NOT NULL,
    term VARCHAR(60) NOT NULL,
    title VARCHAR(500) NOT NULL,
    owner VARCHAR(190) NOT NULL,
    size BIGINT NOT NULL,
    changed_at DATETIME(3) NOT NULL,
    UNIQUE KEY (instance_id, remote_id),
    FOREIGN KEY (instance_id) REFERENCES instances(id)
  )`,
  `CREATE TABLE IF NOT EXISTS copies (
    id INT AUTO_INCREMENT PRIMARY KEY,
    course_id INT NULL,
    file_name VARCHAR(300) NOT NULL,
    code VARCHAR(60) NOT NULL,
    section VARCHAR(30) NOT NULL,
    term VARCHAR(60) NOT NULL,
    title VARCHAR(500) NOT NULL,
    instance_name VARCHAR(120) NOT NULL,
    format VARCHAR(40) NOT NULL,
    size BIGINT NOT NULL,
    sha256 CHAR(64) NOT NULL,
    items INT NOT NULL,
    kept_at DATETIME(3) NOT NULL,
    source_key VARCHAR(120) NOT NULL UNIQUE,
    FOREIGN KEY (course_id) REFERENCES courses(id)
  )`,
  `CREATE TABLE IF NOT EXISTS moves (
    id INT AUTO_INCREMENT PRIMARY KEY,
    course_id INT NOT NULL,
    destination_id INT NOT NULL,
    created_by INT NOT NULL,
    created_at DATETIME(3) NOT NULL,
    open_key VARCHAR(60) NULL UNIQUE,
    copy_id INT NULL,
    accepted_at DATETIME(3) NULL,
    built JSON NULL,
    shell JSON NULL,
    delivered_at DATETIME(3) NULL,
    results JSON NOT NULL,
    FOREIGN KEY (course_id) REFERENCES courses(id),
    FOREIGN KEY (destination_id) REFERENCES instances(id),
    FOREIGN KEY (created_by) REFERENCES users(id),
    FOREIGN KEY (copy_id) REFERENCES copies(id)
  )`,
  `CREATE TABLE IF NOT EXISTS move_documents (
    move_id INT NOT NULL,
    kind VARCHAR(30) NOT NULL,
    content JSON NOT NULL,
    written_at DATETIME(3) NOT NULL,
    PRIMARY KEY (move_id, kind),
    FOREIGN KEY (move_id) REFERENCES moves(id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS jobs (
    id INT AUTO_INCREMENT PRIMARY KEY,
    kind VARCHAR(30) NOT NULL,
    request_key VARCHAR(120) NOT NULL UNIQUE,
    move_id INT NULL,
    course VARCHAR(120) NOT NULL,
    input JSON NOT NULL,
    state ENUM('queued','running','waiting','done','failed') NOT NULL,
    words VARCHAR(300) NOT NULL,
    ahead INT NULL,
    done BIGINT NOT NULL,
    total BIGINT NOT NULL,
    unit VARCHAR(20) NOT NULL,
    attempts INT NOT NULL,
    leased_by VARCHAR(60) NULL,
    lease_until DATETIME(3) NULL,
    run_after DATETIME(3) NOT NULL,
    problem JSON NULL,
    created_at DATETIME(3) NOT NULL,
    changed_at DATETIME(3) NOT NULL,
    finished_at DATETIME(3) NULL,
    seen_at DATETIME(3) NULL,
    KEY (state, run_after),
    KEY (changed_at),
    FOREIGN KEY (move_id) REFERENCES moves(id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS job_steps (
    job_id INT NOT NULL,
    name VARCHAR(60) NOT NULL,
    result JSON NOT NULL,
    finished_at DATETIME(3) NOT NULL,
    PRIMARY KEY (job_id, name),
    FOREIGN KEY (job_id) REFERENCES jobs(id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS audit (
    id INT AUTO_INCREMENT PRIMARY KEY,
    at DATETIME(3) NOT NULL,
    user_id INT NULL,
    act VARCHAR(60) NOT NULL,
    subject VARCHAR(200) NOT NULL,
    detail JSON NOT NULL,
    KEY (at)
  )`,
];

export async function up(queryInterface: QueryInterface): Promise<void> {
  for (const table of TABLES) await queryInterface.sequelize.query(table);
}

export async function down(queryInterface: QueryInterface): Promise<void> {
  for (const table of [
    'audit',
    'job_steps',
    'jobs',
    'move_documents',
    'moves',
    'copies',
    'courses',
    'instances',
    'sessions',
    'users',
  ]) {
    await queryInterface.sequelize.query(`DROP TABLE IF EXISTS ${table}`);
  }
}
