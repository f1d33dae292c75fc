import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
import { api, need } from '../../lib/api/client';
import { house } from '../../lib/house.svelte';
import { count, fine, named, proposed, type Found, type Look, type Tried } from './audit.svelte';
import { marksOf, type Mark } from './marks';
import { drawable } from './webpage';

/** A row of the list beside a judged file: a found color, or the head of those that follow. */
export type Row = { key: string; head?: string; color?: Found };

/** Findings by what is behind them, then what is as it should be. */
export function rowsOf(all: Found[], known: { text: string }[]) {
  const findings = all.filter((c) => !fine(c.verdict));
  const out: Row[] = [];
  const causes = known.filter((c) => findings.some((f) => f.cause === c.text));
  const put = (head: string, list: Found[]) => {
    if (list.length === 0) return;
    out.push({ key: `head ${head}`, head });
    for (const c of list) out.push({ key: c.key, color: c });
  };
  for (const c of causes)
    put(
      c.text.charAt(0).toUpperCase() + c.text.slice(1),
      findings.filter((f) => f.cause === c.text),
    );
  put(
    causes.length > 0 ? 'Without a known cause' : 'Findings',
    findings.filter((f) => !causes.some((c) => c.text === f.cause)),
  );
  put(
    'As it should be',
    all.filter((c) => fine(c.verdict)),
  );
  return out;
}

/** What is looked at of a judged file. */
export interface Looked {
  readonly id: number;
  readonly key: string; // of the color that is chosen
  readonly look: Look;
  readonly page: number; // 0: the first on which the chosen color stands
  readonly plan: Tried | undefined; // as it would be repainted by that
  readonly repaint: number; // as that one made it
  readonly colors: Map<string, Found>;
}

/** A page of a judged file as it is asked for: its picture, what it is held against, and where the found colors stand on it. */
export function useSeen(of: Looked) {
  const path = $derived({ house: house.id, audit: of.id });
  const asked = (query: { key?: string; page?: number; after?: boolean; repaint?: number }) =>
    need(api.GET('/houses/{house}/audits/{audit}/view', { params: { path, query } })).then(drawable);
  const view = createQuery(() => ({
    queryKey: [
      'audit',
      'view',
      house.id,
      of.id,
      of.look === 'alone' ? of.key : '',
      of.look === 'planned' ? of.plan : of.look === 'made' ? of.repaint : of.look === 'after',
      of.page,
    ],
    queryFn: () =>
      of.look === 'planned' && of.plan
        ? need(
            api.POST('/houses/{house}/audits/{audit}/view', { params: { path }, body: { ...of.plan, page: of.page || undefined } }),
          ).then(drawable)
        : asked({
            key: (of.look === 'alone' && of.key) || undefined,
            page: of.page || undefined,
            after: of.look === 'after' || undefined,
            repaint: of.look === 'made' ? of.repaint : undefined,
          }),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  }));
  const shown = $derived(view.data);
  // What a page is held against: itself as it is.
  const two = $derived(of.look === 'after' || of.look === 'planned' || of.look === 'made');
  const plain = createQuery(() => ({
    queryKey: ['audit', 'view', house.id, of.id, '', false, shown?.page],
    queryFn: () => asked({ page: shown?.page }),
    enabled: two && shown?.form === 'pages',
    staleTime: Infinity,
  }));
  const held = $derived(
    two && !view.isPlaceholderData ? (shown?.before ?? (shown?.form === 'pages' ? plain.data?.picture : undefined)) : undefined,
  );
  const drawn = createQuery(() => ({
    // A plan may turn colors that are no finding: then there are more to be told apart.
    queryKey: ['audit', 'marks', house.id, of.id, (shown?.codes ?? []).map((c) => c.key)],
    queryFn: () =>
      marksOf(
        shown?.before ?? shown?.picture ?? '',
        shown?.coded ?? '',
        (shown?.codes ?? []).map((c) => ({ ...c, was: of.colors.get(c.key)?.hex ?? '#000000' })),
      ),
    enabled: shown?.form === 'drawing' && !!shown.coded && of.colors.size > 0,
    staleTime: Infinity,
  }));
  const boxes = $derived<Mark[]>(
    shown?.form === 'drawing' ? (of.look === 'alone' ? [] : (drawn.data?.marks ?? [])) : (shown?.boxes ?? []),
  );
  const more = $derived(shown?.form === 'drawing' ? (of.look === 'alone' ? 0 : (drawn.data?.more ?? 0)) : (shown?.more ?? 0));

  return {
    get shown() {
      return shown;
    },
    get problem() {
      return view.isError ? view.error.message : '';
    },
    /** The page, or another in place of this one, is on its way. */
    get busy() {
      return view.isFetching;
    },
    get pending() {
      return view.isPending;
    },
    /** The one before is shown until then. */
    get waits() {
      return view.isPlaceholderData;
    },
    /** Two states of it can be looked at. */
    get two() {
      return two;
    },
    get held() {
      return held;
    },
    get boxes() {
      return boxes;
    },
    /** Places without a mark. */
    get more() {
      return more;
    },
  };
}

/** What of a page moves when found colors do, in words: marked are the keys of those that are to be seen on it. */
export function toldOf(of: Looked, shown: { others?: number; moved?: number } | undefined, marked: Set<string>) {
  if (shown?.others === undefined) return '';
  const stays = new Set(of.look === 'planned' ? of.plan?.colors.filter((s) => s.leave).map((s) => s.from) : []);
  const n = [...marked].filter((k) =>
    of.look === 'planned' ? !stays.has(named(of.colors.get(k)!)) : proposed(of.colors.get(k)!) !== '',
  ).length;
  const rest = shown.others.toLocaleString('en-US');
  if (of.look === 'made')
    return shown.moved === 0
      ? `Repainted: nothing on this page moves but found colors (0 of ${rest} other pixels).`
      : `Repainted: with found colors move ${count(shown.moved ?? 0, 'pixel')} of ${rest} that are of no found color.`;
  const them = n === 1 ? 'it' : 'them';
  const changes = `${count(n, 'found color')} ${n === 1 ? 'changes' : 'change'}`;
  return shown.moved === 0
    ? `After: ${changes}, nothing else on this page moves (0 of ${rest} other pixels).`
    : `After: ${changes}, and with ${them} ${count(shown.moved ?? 0, 'pixel')} of ${rest} that are of no found color.`;
}
