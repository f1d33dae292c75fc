<script lang="ts">
  import { screen } from './screen.svelte';
  import { admitted } from './admission';
  import { api, need } from './api/client';
  import { useChange } from './change.svelte';
  import { house, useTray } from './house.svelte';

  const tray = useTray();
  const changing = useChange(['tray', 'ledger'], { aloud: true });
  const ready = $derived(tray.data?.filter((c) => !c.notes.some((n) => n.blocks || n.change)) ?? []);

  const admit = () =>
    changing.run(async () => {
      const body = { items: ready.map((c) => c.id) };
      const done = await need(api.POST('/houses/{house}/tray/admit', { params: { path: { house: house.id } }, body }));
      return admitted(done, 0, '');
    });
</script>

{#if tray.data && tray.data.length > 0}
  <footer class="flex h-16 print:hidden items-stretch gap-4 bg-[#2a2a2a] text-white" aria-label="Tray">
    <a class="flex items-center pl-5 font-bold" href={house.path('gather')}
      >Tray <span class="ml-2 font-normal">{tray.data.length}</span></a
    >
    <ul class="flex min-w-0 flex-1 overflow-x-auto" aria-label="Candidates">
      {#each tray.data as c (c.id)}
        <li class="shrink-0">
          <a class="flex h-full items-stretch" href={house.path('gather')} title={c.notes.map((n) => n.text).join('; ')}>
            <span class="w-[3.6rem]" style:background={screen.face(c)}></span>
            <span class="flex max-w-[12.67rem] flex-col justify-center px-3 pr-5 text-small">
              <span class="truncate">{c.name || c.hex}</span>
              <span class="truncate">{c.notes.find((n) => n.kind !== 'remark')?.text ?? c.hex}</span>
            </span>
          </a>
        </li>
      {/each}
    </ul>
    <div class="flex items-center pr-5">
      <button class="btn btn-plain hover:bg-white hover:text-black" disabled={changing.busy || ready.length === 0} onclick={admit}>
        {house.keeper ? 'Admit' : 'Propose'}
        {ready.length}
      </button>
    </div>
  </footer>
{/if}

<style>
  footer :focus-visible {
    outline-color: #fff;
  }
</style>
