<script lang="ts">
  import { placed, trees, type Placed } from '../../lib/drag';
  import { house, useLedger, useTray } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import Places from '../../lib/Places.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { navigate, route } from '../../lib/router';
  import { message } from '../../lib/state.svelte';
  import Files from './Files.svelte';
  import Harmony from './Harmony.svelte';
  import { draftKey, incoming } from './incoming.svelte';
  import Paste from './Paste.svelte';
  import Picture from './Picture.svelte';
  import Reading from './Reading.svelte';
  import Starters from './Starters.svelte';
  import TraySheet from './TraySheet.svelte';

  const tray = useTray();
  const ledger = useLedger();

  const ways = [
    { path: 'paste', name: 'Type or paste' },
    { path: 'picture', name: 'Picture' },
    { path: 'file', name: 'Files' },
    { path: 'harmony', name: 'Harmony' },
    { path: 'starters', name: 'Starters' },
    { path: 'reading', name: 'Reading' },
  ] as const;
  const way = $derived(route.params.way ?? 'paste');
  let pasted = $state(0); // what was pasted elsewhere in the station stands where one types
  let chooser = $state<HTMLInputElement>();
  let camera = $state<HTMLInputElement>();

  async function take(list: Placed[], leftOut: string[] = []) {
    if (!house.contributor) return message.say('To gather, ask a keeper for the role of a contributor.');
    const to = await incoming.take(list, leftOut);
    for (const field of [chooser, camera]) if (field) field.value = '';
    if (to) void navigate('/h/:house/gather/:way', { params: { house: String(house.id), way: to } });
  }

  function paste(e: ClipboardEvent) {
    const files = e.clipboardData?.files;
    const text = e.clipboardData?.getData('text/plain').trim();
    const typing = (e.target as HTMLElement | null)?.closest('input, textarea, select, [contenteditable]');
    if (!files?.length && text && !typing && house.contributor) {
      e.preventDefault();
      localStorage.setItem(draftKey(), [localStorage.getItem(draftKey())?.trim(), text].filter(Boolean).join('\n'));
      pasted++;
      void navigate('/h/:house/gather/:way', { params: { house: String(house.id), way: 'paste' } });
      return;
    }
    if (files?.length) {
      e.preventDefault();
      void take(placed(files));
    }
  }

  $effect(() => keys.add([{ key: 'o', does: 'open a picture or a file', run: () => chooser?.click() }]));
</script>

<svelte:window onpaste={paste} />

<div class="work">
  <main
    class="flex min-h-0 flex-col"
    {@attach trees(
      (list, leftOut) => void take(list, leftOut),
      () => true,
    )}
  >
    <div class="flex flex-wrap items-center gap-x-5 gap-y-2 px-5 pt-4">
      <h1 class="phone:sr-only">Gather</h1>
      <Places
        label="Ways to gather"
        list={ways.map((w) => ({ name: w.name, href: house.path(`gather/${w.path}`), here: way === w.path }))}
      />
      <button class="btn btn-plain ml-auto" onclick={() => chooser?.click()} disabled={!house.contributor}
        >Open a picture or file</button
      >
      {#if rem.phone}
        <button class="btn btn-plain" onclick={() => camera?.click()}>Take a photo</button>
        <input
          class="hidden"
          type="file"
          accept="image/*"
          capture="environment"
          aria-label="Photo from the camera"
          bind:this={camera}
          onchange={(e) => take(placed(e.currentTarget.files))}
        />
      {/if}
      <input
        class="hidden"
        type="file"
        multiple
        aria-label="Picture or swatch file"
        bind:this={chooser}
        onchange={(e) => take(placed(e.currentTarget.files))}
      />
    </div>
    <div class="flex min-h-0 flex-1 flex-col overflow-y-auto px-5 pb-5 pt-4">
      {#if way === 'picture'}<Picture choose={() => chooser?.click()} />
      {:else if way === 'file'}<Files choose={() => chooser?.click()} />
      {:else if way === 'harmony'}<Harmony />
      {:else if way === 'starters'}<Starters />
      {:else if way === 'reading'}<Reading />
      {:else}{#key pasted}<Paste />{/key}{/if}
    </div>
  </main>
  <TraySheet candidates={tray.data ?? []} groups={ledger.data?.groups ?? []} />
</div>
