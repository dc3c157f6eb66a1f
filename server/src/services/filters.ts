import { CourseFilter, SavedFilterSummary, type Person } from '../contract/index.ts';
import { SavedFilter } from '../db/models/index.ts';

/** Filters of the register that a person saved under a name. */
export async function listFilters(person: Person): Promise<SavedFilterSummary[]> {
  const rows = await SavedFilter.findAll({ where: { userId: person.id }, order: [['name', 'ASC']] });
  return rows.map(({ id, name, filter }) => ({ id, name, filter: CourseFilter.parse(filter) }));
}

/** The same name again takes the place of the one before. */
export async function saveFilter(person: Person, name: string, filter: CourseFilter): Promise<SavedFilterSummary[]> {
  await SavedFilter.upsert({ userId: person.id, name, filter });
  return listFilters(person);
}

export async function removeFilter(person: Person, id: number): Promise<SavedFilterSummary[]> {
  await SavedFilter.destroy({ where: { id, userId: person.id } });
  return listFilters(person);
}
