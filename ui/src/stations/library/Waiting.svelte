<script lang="ts">
  import { house, usePairs, useRecipients, useSuggestions } from '../../lib/house.svelte';
  import { useTroubles } from '../send/packings';
  import { of, urgent } from '../send/send';

  // What waits for this person, at the foot of the list on a phone, a press from where it is answered.
  const suggestions = useSuggestions();
  const recipients = useRecipients();
  const pairs = usePairs();
  const troubles = useTroubles();
  const asked = $derived(suggestions.data ?? []);
  const behind = $derived((recipients.data ?? []).filter((r) => !r.paused && r.holdings.some(urgent)).length);
  const broken = $derived((pairs.data ?? []).filter((p) => !p.holds || (p.may && p.retired)));
  const things = $derived(
    [
      house.keeper &&
        asked[0] && {
          href: house.path(`library/${asked[0].color.id}`),
          text: `${of(asked.length, 'suggestion')}${asked.length === 1 ? ` for ${asked[0].color.name}` : ''}`,
        },
      house.keeper &&
        behind > 0 && {
          href: house.path('send/recipients'),
          text: `${of(behind, 'recipient')} ${behind === 1 ? 'is' : 'are'} behind`,
        },
      (troubles.data ?? []).length > 0 && {
        href: house.path('send/loading'),
        text: `${of(troubles.data!.length, 'file')} did not work for those who got ${troubles.data!.length === 1 ? 'it' : 'them'}`,
      },
      broken[0] && {
        href: house.path(`library/${broken[0].color.id}`),
        text:
          broken.length === 1
            ? `${broken[0].color.name} on ${broken[0].ground.name} no longer keeps its rule`
            : `${broken.length} pairs no longer keep their rule`,
      },
    ].filter((t) => !!t),
  );
</script>

{#if things.length > 0}
  <section class="border-t border-current px-4 py-2" aria-label="Waiting for you">
    <h2>Waiting for you</h2>
    <p class="flex flex-wrap gap-x-4">
      {#each things as t (t.href)}<a class="link py-1.5" href={t.href}>{t.text}</a>{/each}
    </p>
  </section>
{/if}
