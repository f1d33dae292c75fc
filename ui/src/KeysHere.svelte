<script lang="ts">
  import { isLetter, keys } from './lib/keys.svelte';

  // The keys of where one is.
</script>

<aside class="fixed bottom-5 right-5 z-40 w-[22.67rem] bg-[#111] p-5 text-white outline outline-1 outline-[#888]" aria-label="Keys">
  <h2 class="flex justify-between">
    Keys here <button class="link font-normal" onclick={() => (keys.help = false)}>close</button>
  </h2>
  <dl class="mt-3 grid grid-cols-[5.87rem_1fr] gap-y-1.5">
    {#each keys.all.filter((k) => keys.letters || !isLetter(k)) as k (k)}
      <dt>
        <kbd class="border border-[#aaa] px-1.5 font-mono text-small"
          >{k.alt ? 'Alt ' : ''}{k.key.length === 1 ? k.key.toUpperCase() : k.key.replace('Arrow', '')}</kbd
        >
      </dt>
      <dd>{k.does}</dd>
    {/each}
    <dt><kbd class="border border-[#aaa] px-1.5 font-mono text-small">?</kbd></dt>
    <dd>show or hide this</dd>
  </dl>
  <label class="mt-3 flex items-center gap-2">
    <input type="checkbox" class="checkbox text-white" bind:checked={() => keys.letters, (on) => (keys.letters = on)} />
    single letters as well
  </label>
</aside>

<style>
  aside :focus-visible {
    outline-color: #fff;
  }
</style>
