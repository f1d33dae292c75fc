<script lang="ts">
  import RoleField from '../../lib/RoleField.svelte';
  import type { Attachment } from 'svelte/attachments';
  import type { Schema } from '../../lib/api/client';
  import { house, useLimits } from '../../lib/house.svelte';
  import { screen } from '../../lib/screen.svelte';

  type Kind = NonNullable<Schema['CandidateChange']['decides']>;

  // A candidate on the tray: edge to edge with what it is near to, its name, what was given of it, what is to be known, and what
  // becomes of it.
  let {
    c,
    twin,
    taken,
    take,
    amends,
    stands,
    use,
    keepOwn,
    typed,
    rename,
    next,
    group,
    role,
    rest,
    place,
    decide,
    busy,
    blamed,
    remove,
    up,
    down,
    drag,
  }: {
    c: Schema['Candidate'];
    /** Another candidate that looks the same. */
    twin?: Schema['Candidate'];
    taken: boolean;
    take: (on: boolean) => void;
    /** The note on the color whose values it becomes. */
    amends?: Schema['CandidateNote'];
    /** A color of the library is used instead. */
    stands: boolean;
    use: (color: number) => void;
    keepOwn: () => void;
    typed: (name: string) => void;
    rename: (name: string) => void;
    next: (field: HTMLInputElement) => void;
    /** Its own group and role, where it has other ones than the rest. */
    group?: string;
    role?: string;
    rest: { group: string; role: string };
    place: (to: { group?: string; role?: string }) => void;
    decide: (kind: Kind) => void;
    busy: boolean;
    blamed?: string;
    remove: () => void;
    up?: () => void;
    down?: () => void;
    drag: Attachment<HTMLElement>;
  } = $props();

  const limits = useLimits();
  let placing = $state(false);
  const near = $derived(c.notes.find((n) => n.color));
  const other = $derived(near?.color?.hex ?? twin?.hex);

  // What was given and could decide: the kinds of value, in words.
  const kinds = $derived.by((): [Kind, string][] => {
    const all: [Kind, string | undefined][] = [
      ['screen', c.screen],
      ['build', c.cmyk && `CMYK ${c.cmyk}`],
      ['ink', c.spot],
    ];
    return c.lab ? [] : all.filter((k): k is [Kind, string] => !!k[1]);
  });
  const decides = $derived(c.master?.kind === 'build' || c.master?.kind === 'ink' ? c.master.kind : 'screen');
  const values = $derived.by(() => {
    const printed = c.master?.press ?? c.master?.stock;
    return [
      printed && !c.cmyk && !c.spot ? `${c.master!.text} on ${printed}` : '',
      c.screen || (printed ? '' : c.hex),
      c.cmyk && `CMYK ${c.cmyk}`,
      c.spot,
      c.lab && `Lab ${c.lab}`,
      printed && !c.screen && `${c.hex} on screens`,
    ].filter(Boolean);
  });
  const held = (to: Schema['CandidateAmends']) =>
    [
      to.sets.length > 0 && `on ${to.sets.join(', ')}`,
      to.behind > 0 && (to.behind === 1 ? '1 recipient has another value' : `${to.behind} recipients have another value`),
    ]
      .filter(Boolean)
      .join('; ') || 'on no swatch set';
</script>

<li class="rule grid grid-cols-[1.2rem_4.27rem_minmax(0,1fr)_4.4rem] gap-3 border-b py-2" {@attach drag}>
  <input
    type="checkbox"
    class="checkbox mt-1"
    aria-label={`Take ${c.name || c.hex} along`}
    checked={taken}
    onchange={(e) => take(e.currentTarget.checked)}
  />
  <span class="flex min-h-12" aria-hidden="true">
    {#if amends && other}<span class="flex-1" style:background={other}></span>{/if}
    <span class="flex-1" style:background={screen.face(c)}></span>
    {#each c.notes.filter((n) => n.look) as n (n.text)}<span class="flex-1" style:background={n.look}></span>{/each}
    {#if !amends && other}<span class="flex-1" style:background={other}></span>{/if}
  </span>
  <span class="min-w-0">
    <input
      class="input w-full font-bold"
      aria-label={`Name of ${c.hex}`}
      placeholder="name it"
      maxlength={limits.data?.nameRunes}
      value={c.name}
      disabled={stands}
      onkeydown={(e) => e.key === 'Enter' && next(e.currentTarget)}
      oninput={(e) => typed(e.currentTarget.value)}
      onchange={(e) => rename(e.currentTarget.value)}
    />
    <span class="mt-1 block font-mono text-small">{values.join(', ')}</span>
    {#if kinds.length > 1}<label class="mt-1 flex items-center gap-2 text-small"
        >decides
        <select
          class="select min-w-0 flex-1"
          aria-label={`What decides ${c.name || c.hex}`}
          value={decides}
          disabled={busy}
          onchange={(e) => decide(e.currentTarget.value as Kind)}
          >{#each kinds as [kind, text] (kind)}<option value={kind}>{text}</option>{/each}</select
        ></label
      >{/if}
    {#if !stands && !amends}
      {#if placing}
        <span class="mt-1 grid grid-cols-2 gap-2"
          ><input
            class="input w-full"
            list="groups"
            aria-label={`Group of ${c.name || c.hex}`}
            placeholder={rest.group || 'no group'}
            maxlength={limits.data?.nameRunes}
            value={group ?? ''}
            onchange={(e) => place({ group: e.currentTarget.value.trim() || undefined })}
          /><RoleField
            label={`Role of ${c.name || c.hex}`}
            placeholder={rest.role || 'no role'}
            value={role ?? ''}
            onchange={(v) => place({ role: v.trim() || undefined })}
          /></span
        >
      {:else}<button class="link mt-1 block text-small" onclick={() => (placing = true)}
          >{[group ?? rest.group, role ?? rest.role].filter(Boolean).join(', ') || 'group and role'}</button
        >{/if}
    {/if}
    {#each c.notes.filter((n) => n !== amends) as n (n.text)}
      <span class="block text-small"
        >{#if n.blocks && !stands}<b>{n.text}</b>{:else}{n.text}{/if}</span
      >
    {/each}
    {#if amends?.change}
      <span class="block text-small"
        ><b>{amends.color?.name} {house.keeper ? 'changes' : 'is to change'}.</b> {amends.text}; {held(amends.change)}</span
      >
      {#if amends.change.stays.length > 0}<span class="block text-small"
          >Approved for what it was, stays and is flagged: {amends.change.stays.join(', ')}</span
        >{/if}
      <span class="flex flex-wrap gap-x-3 text-small"
        ><button class="link" onclick={() => use(amends.color!.id)}>no, {amends.color?.name} stays</button>
        <button class="link" onclick={keepOwn}>no, a new color</button></span
      >
    {:else if near?.color}
      {#if stands}
        <span class="block text-small"
          ><b>{near.color.name} is used instead</b>
          <button class="ml-2 link" onclick={keepOwn}>no, keep this one</button></span
        >
      {:else}<button class="block text-small link" onclick={() => use(near.color!.id)}>use {near.color.name} instead</button>{/if}
    {/if}
    {#if blamed}<span class="block text-small font-bold" role="alert">{blamed}</span>{/if}
  </span>
  <span class="flex flex-col items-end text-small">
    <button class="px-1 link" aria-label={`Remove ${c.name || c.hex} from the tray`} disabled={busy} onclick={remove}>remove</button
    >
    <span class="flex gap-2 px-1">
      {#if up}<button class="link" aria-label={`Move ${c.name || c.hex} up`} disabled={busy} onclick={up}>up</button>{/if}
      {#if down}<button class="link" aria-label={`Move ${c.name || c.hex} down`} disabled={busy} onclick={down}>down</button>{/if}
    </span>
  </span>
</li>
