<script lang="ts">
  import { useRoles } from './house.svelte';

  // The role of a color: one that the house has, or a word of its own.
  let {
    value = $bindable(''),
    label,
    placeholder = 'none',
    onchange,
  }: { value?: string; label: string; placeholder?: string; onchange?: (value: string) => void } = $props();
  const roles = useRoles();
  const id = $props.id();
</script>

<input
  class="input w-full"
  list={id}
  maxlength="40"
  autocomplete="off"
  aria-label={label}
  {placeholder}
  bind:value
  onchange={(e) => onchange?.(e.currentTarget.value)}
/>
<datalist {id}
  >{#each roles.list as r (r)}<option value={r}></option>{/each}</datalist
>
