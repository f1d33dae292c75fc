import { createQuery } from '@tanstack/svelte-query';
import { api, need, Problem, sentence, type Schema } from '../../lib/api/client';
import { useChange, type Done } from '../../lib/change.svelte';
import type { Placed } from '../../lib/drag';
import { house, useLimits } from '../../lib/house.svelte';
import { follow } from '../../lib/jobs';
import { kept, onForget } from '../../lib/kept.svelte';
import { bytes } from '../../lib/notations';
import { navigate } from '../../lib/router';
import { verdicts as table } from '../../lib/engine.gen';
import { message } from '../../lib/state.svelte';

/** How a judged file is looked at. */
export const looks = ['before', 'after', 'planned', 'made', 'alone'] as const;
export type Look = (typeof looks)[number];

/** What is to become of a found color. */
export type Choice = 'repaint' | 'leave' | 'excuse';

export type Found = Schema['FoundColor'];
export type Verdict = Schema['Verdict'];

/** The verdicts in the order of bars and legends. */
export const verdicts = table.toSorted((a, b) => Number(b.word === 'on-brand') - Number(a.word === 'on-brand'));

/** Whether nothing is to be decided of what has a verdict, and whether it counts in a score. */
export const fine = (verdict: Verdict) => !!table.find((v) => v.word === verdict)?.fine;
export const known = (verdict: Verdict) => !!table.find((v) => v.word === verdict)?.known;

export const percent = (score: number | undefined) => (score === undefined ? 'nothing judged' : `${(score * 100).toFixed(1)} %`);

export const when = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
export const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeZone: 'UTC' });

/** How often something is there. Pictures and videos count hundredths of their area. */
const byArea = (kind: string) => kind === 'picture' || kind === 'video';
export const uses = (n: number, kind = '') =>
  byArea(kind) ? `${n} % of the area` : n === 1 ? '1 use' : `${n.toLocaleString('en-US')} uses`;
export const count = (n: number, what: string) => `${n.toLocaleString('en-US')} ${what}${n === 1 ? '' : 's'}`;

/** What a plan and an excuse call a found color. */
export const named = (c: Found) => c.spot ?? c.cmyk ?? c.wide ?? c.hex;

/** What a column of such counts is called. */
export const usesHead = (kind: string) => (byArea(kind) ? 'Area, %' : 'Uses');

/** What a found color becomes without a decision; empty if it needs one. */
export const proposed = (c: Found) =>
  c.verdict === 'drifted' ? (c.nearest?.name ?? '') : c.verdict === 'retired' ? (c.nearest?.successor ?? '') : '';

/** How many uses of a found color can be written. */
export const writable = (c: Found) => c.count - (c.fixed ?? 0);

export const useProject = (id: () => number | undefined) =>
  createQuery(() => ({
    queryKey: ['audits', 'project', house.id, id()],
    queryFn: () =>
      need(api.GET('/houses/{house}/projects/{project}', { params: { path: { house: house.id, project: id() ?? 0 } } })),
    enabled: id() !== undefined,
  }));

/** Reads an audit with all its colors, page by page. */
export async function whole(of: number, id: number) {
  const path = { house: of, audit: id };
  const a = await need(api.GET('/houses/{house}/audits/{audit}', { params: { path } }));
  for (let from = a.next; from !== undefined;) {
    const page = await need(api.GET('/houses/{house}/audits/{audit}', { params: { path, query: { from } } }));
    a.colors.push(...page.colors);
    from = page.next;
  }
  return a;
}

export const useAudit = (id: () => number | undefined) =>
  createQuery(() => ({
    queryKey: ['audit', house.id, id()],
    queryFn: () => whole(house.id, id() ?? 0),
    enabled: id() !== undefined,
    staleTime: Infinity,
  }));

export const useExcuses = (project: () => number | undefined) =>
  createQuery(() => ({
    queryKey: ['audits', 'excuses', house.id, project()],
    queryFn: () =>
      need(api.GET('/houses/{house}/excuses', { params: { path: { house: house.id }, query: { project: project() } } })),
  }));

/** The excuse that the next run of a file counts a found color by, given since the report: wholly, or at some places of it. */
export function excusedSince(c: Found, line: Schema['AuditLine'], list: Schema['Excuse'][] | undefined) {
  if (fine(c.verdict)) return undefined;
  const its = (list ?? []).filter(
    (e) =>
      (e.state === 'holds' || e.state === 'ending') &&
      e.color.toLowerCase() === named(c).toLowerCase() &&
      (!e.project || e.project === line.project) &&
      (!e.file || e.file === (line.path ?? line.file)) &&
      (!e.where || c.places.some((p) => p.where === e.where)),
  );
  return its.find((e) => !e.where) ?? its[0];
}

export const reportPath = (id: number) => house.path(`audit/${id}`);
export const go = (to: string) => void navigate(to as '/');

/** Kinds of documents whose pages LibreOffice makes. */
export const office = ['pptx', 'docx', 'xlsx', 'odp', 'odt', 'ods', 'odg', 'fodt'];
/** Kinds that are shown as they would be repainted. */
export const pictured = (kind = '') => ['pdf', 'svg', 'html', 'picture', ...office].includes(kind);

/**
 * The pages on which a color stands, as far as its first places tell. Of an animation and a video they are frames, which have names: their
 * numbers and times.
 */
export const pagesOf = (c: Found, names?: string[]) => {
  const page = (where: string) => {
    if (!names) return Number(/^(?:page|slide)s? (\d+)\b/.exec(where)?.[1] ?? 0);
    const name = /^[\d,]+ frames? from (\d+:\d\d) on|^(?:frame|page) (\d+),/.exec(where);
    return names.indexOf(name?.[1] ?? name?.[2] ?? '1') + 1;
  };
  return [...new Set(c.places.map((p) => page(p.where)).filter((n) => n > 0))];
};

export type Tried = { colors: Schema['PlanStep'][]; link?: boolean; theme?: number };

/** The plan of a file as it was when one went to look at the page that it makes. */
export const triedPlan = (house: number, audit: number) =>
  kept(`tried-${house}-${audit}`, { plan: undefined as Tried | undefined });

/** Files that were not sent to their project yet. They stay for as long as the page is open. */
const waiting = $state<{ now?: { house: number; project: number; name: string; list: Placed[] } }>({});
const notTaken = $state<{ project: number; now: { path: string; why: string }[] }>({ project: 0, now: [] });

onForget(() => {
  waiting.now = undefined;
  notTaken.now = [];
});

/** The first files of a list as one form: not many, and not large, so that one sees how far it is and little is lost when it breaks off. */
function batch(list: Placed[], most: number) {
  const form = new FormData();
  let n = 0;
  let size = 0;
  for (const { path, file } of list) {
    const own = file.size > most ? 0 : file.size;
    if (n > 0 && (n === 100 || size + own > 16e6)) break;
    form.append('path', path);
    if (file.size > most) form.append('size', String(file.size));
    else form.append('file', file, file.name);
    n++;
    size += own;
  }
  return { form, n, size };
}

/** The work of this station that takes time: what is sent, read and repainted, with how far it is. Call it while a component is set up. */
export function useWork() {
  const changing = useChange(['audits']);
  const limits = useLimits();
  let job = $state<Schema['Job'] | null>(null);
  let about = $state('');
  let of = house.id; // where the work was begun: one may go elsewhere meanwhile
  let from = '';

  async function run(work: () => Promise<string | Done | void>) {
    of = house.id;
    const here = (from = location.pathname);
    const well = await changing.run(work);
    if (!well && location.pathname !== here) message.say(changing.problem); // its place on the page is gone
    return well;
  }

  /** Leads to what was made, unless one went elsewhere meanwhile: then it is said, with the way to it. */
  function lead(to: string, said: string, name: string): Done | undefined {
    const href = `/h/${of}/audit/${to}`;
    if (location.pathname !== from) return { said, next: { name, href } };
    go(href);
    return undefined;
  }

  async function done(name: string, begun: Schema['Job']): Promise<number> {
    about = name;
    try {
      const end = await follow(of, begun, (j) => (job = j));
      return Number(end.result);
    } finally {
      job = null;
    }
  }

  async function sendAll(project: number, name: string, list: Placed[], leftOut: string[] = []) {
    notTaken.project = project;
    notTaken.now = leftOut.map((path) => ({ path, why: 'hidden, or put there by a program; left out' }));
    waiting.now = { house: of, project, name, list };
    const total = list.length;
    const weight = (p: Placed) => p.file.size + 2000;
    const all = list.reduce((n, p) => n + weight(p), 0);
    let sent = 0;
    await changing.sendAll(async (send) => {
      while (list.length > 0) {
        const { form, n, size } = batch(list, most());
        const from = sent;
        sent += list.slice(0, n).reduce((sum, p) => sum + weight(p), 0);
        const told =
          n === 1 ? list[0]!.file.name : `${total - list.length + 1} to ${total - list.length + n} of ${count(total, 'file')}`;
        const answer = await send<Schema['ProjectFile'][]>(`/houses/${of}/projects/${project}/files/many`, form, told, {
          from: size ? from / all : 0,
          to: sent / all,
        });
        notTaken.now = [...notTaken.now, ...answer.flatMap((f) => (f.why ? [{ path: f.path, why: f.why }] : []))];
        list = list.slice(n);
        waiting.now = { house: of, project, name, list };
      }
    });
    waiting.now = undefined;
  }

  const most = () => limits.data?.uploadBytes ?? Infinity;

  function fits(f: File) {
    if (f.size > most()) throw new Problem(`${f.name} is larger than ${bytes(most())}, the most that is read.`, 413);
  }

  return {
    changing,
    /** Does it, as useChange does. */
    run,
    lead,
    get job() {
      return job;
    },
    get about() {
      return about;
    },
    /** The extensions of what is read, for a file field. */
    get accept() {
      return limits.data?.auditKinds.flatMap((k) => k.extensions).join(',');
    },
    done,
    /** Judges one file as the project of its name; the number of the audit. */
    async judge(f: File): Promise<number> {
      fits(f);
      return done(f.name, await changing.send<Schema['Job']>(`/houses/${of}/audits`, f, f.name));
    },
    /** Puts files into a project and judges it; the number of the run. Those that are not read stand in the project with why. */
    async judgeAll(project: number, name: string, list: Placed[], leftOut: string[] = []): Promise<number> {
      const path = { house: of, project };
      await sendAll(project, name, list, leftOut);
      return done(name, await need(api.POST('/houses/{house}/projects/{project}/runs', { params: { path } })));
    },
    /** What was broken off: files that wait in this tab for being sent. */
    get waiting() {
      return waiting.now?.house === house.id ? waiting.now : undefined;
    },
    /** Goes on with what was broken off. */
    goOn: () => {
      const { project, name, list } = waiting.now!;
      return run(async () => {
        const path = { house: of, project };
        await sendAll(project, name, list);
        await done(name, await need(api.POST('/houses/{house}/projects/{project}/runs', { params: { path } })));
        return lead(`project/${project}`, `${name} is judged`, name);
      });
    },
    leaveIt: () => (waiting.now = undefined),
    /** What of the files that were dropped last did not get into their project, or was left out, and why. */
    notTaken: (project?: number) => (project === notTaken.project ? notTaken.now : []),
    seen: () => (notTaken.now = []),
    giveUp: async () => {
      if (!job) return;
      const path = { house: of, job: job.id };
      try {
        await need(api.DELETE('/houses/{house}/jobs/{job}', { params: { path } }));
      } catch (e) {
        if (!(e instanceof Problem && e.status === 409)) changing.problem = sentence(e); // 409: it ended meanwhile, which is seen
      }
    },
  };
}

export type Work = ReturnType<typeof useWork>;

/** A name for files that were dropped together: their folder, or the first of them. */
export function nameOf(list: Placed[]): string {
  const top = list[0]?.path.split('/')[0] ?? 'Files';
  if (list.length > 1 && list.every((f) => f.path.startsWith(`${top}/`))) return top;
  const first = (list[0]?.file.name ?? 'Files').replace(/\.[^.]+$/, '');
  return list.length > 1 ? `${first} and ${list.length - 1} more` : first;
}

/** Puts found colors on the tray, with where they came from. Returns what to say. */
export async function ontoTray(list: Found[], line: Schema['AuditLine']) {
  const file = line.path ?? line.file;
  const colors = list.map((c): Schema['NewCandidate'] => ({
    name: c.spot,
    value: c.wide ?? c.hex,
    cmyk: c.cmyk,
    origin: 'file',
    source: `${file}, ${c.places[0]?.where ?? ''}`,
  }));
  await need(api.POST('/houses/{house}/tray/colors', { params: { path: { house: house.id } }, body: { colors } }));
  return {
    said: colors.length === 1 ? '1 color is on the tray' : `${colors.length} colors are on the tray`,
    next: { name: 'go there', href: house.path('gather') },
  };
}

/** The score of uses by their verdicts, as core/audit rounds it; none where nothing could be judged. */
export function scoreOf(totals: { verdict: Found['verdict']; uses: number }[]) {
  const sum = (of: (verdict: Found['verdict']) => boolean) => totals.reduce((n, t) => n + (of(t.verdict) ? t.uses : 0), 0);
  const judged = sum(known);
  return judged > 0 ? Math.floor((1000 * sum(fine)) / judged) / 1000 : undefined;
}
