import {
  KIND_LABELS,
  SETTING_LABELS,
  type KindRule,
  type Profile,
  type SettingName,
  type SubjectKind,
} from '../model/index.ts';

function kindWords(rule: KindRule | undefined): string {
  if (!rule) return 'carried whole';
  if (rule.carry === 'never') return 'left behind';
  return `carried as ${rule.ways.map((w) => KIND_LABELS[w.as]).join(' or ')}`;
}

/** What is different in a newer version of a profile, as sentences. */
export function profileChanges(before: Profile, after: Profile): string[] {
  const changes: string[] = [];
  const both = <T extends string>(a: Partial<Record<T, unknown>>, b: Partial<Record<T, unknown>>) =>
    [...new Set([...Object.keys(a), ...Object.keys(b)])].sort() as T[];
  for (const kind of both<SubjectKind>(before.kinds, after.kinds)) {
    const [was, is] = [kindWords(before.kinds[kind]), kindWords(after.kinds[kind])];
    if (was !== is) changes.push(`${KIND_LABELS[kind]}: ${was} before, ${is} now`);
  }
  for (const kind of both<SubjectKind>(before.settings, after.settings)) {
    for (const name of both<SettingName>(before.settings[kind] ?? {}, after.settings[kind] ?? {})) {
      const [was, is] = [before.settings[kind]?.[name], after.settings[kind]?.[name]];
      if ((was === undefined) !== (is === undefined)) {
        changes.push(`${KIND_LABELS[kind]}, ${SETTING_LABELS[name]}: ${is === undefined ? 'kept now' : 'lost now'}`);
      }
    }
  }
  for (const type of both(before.questions, after.questions)) {
    const words = (p: Profile) => {
      const rule = p.questions[type];
      return !rule ? 'carried whole' : rule.carry === 'never' ? 'left behind' : `carried as ${rule.as}`;
    };
    if (words(before) !== words(after)) changes.push(`question, ${type}: ${words(before)} before, ${words(after)} now`);
  }
  for (const limit of both(before.limits, after.limits)) {
    const [was, is] = [limitWords(before, limit), limitWords(after, limit)];
    if (was !== is) changes.push(`limit ${LIMIT_LABELS[limit]}: ${was ?? 'none'} before, ${is ?? 'none'} now`);
  }
  return changes;
}

function limitWords({ limits }: Profile, name: keyof Profile['limits']): string | number | undefined {
  return name === 'nameCharacters' ? limits.nameCharacters?.not : limits[name]?.at;
}

export const LIMIT_LABELS: Record<keyof Profile['limits'], string> = {
  folderDepth: 'of folder depth',
  fileBytes: 'of bytes a file',
  titleLength: 'of characters a title',
  nameCharacters: 'of characters that names may not have',
};
