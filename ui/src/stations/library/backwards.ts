import type { Schema } from '../../lib/api/client';

type Part = 'group' | 'role' | 'status';
type Was = { id: number } & Pick<Schema['ColorRow'], Part>;

/** The changes that give each of many colors back what it had; those that had the same go together. */
export function backwards(part: Part, was: Was[]): Schema['BulkChange'][] {
  return [...new Set(was.map((w) => w[part]))].map((v) => ({
    colors: was.filter((w) => w[part] === v).map((w) => w.id),
    [part]: v,
  }));
}
