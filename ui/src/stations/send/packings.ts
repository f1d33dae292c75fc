import { createQuery } from '@tanstack/svelte-query';
import { api, need } from '../../lib/api/client';
import { house } from '../../lib/house.svelte';

/** Everything that an edition can be packed as. */
export const usePackings = () =>
  createQuery(() => ({
    queryKey: ['packings'],
    queryFn: () => need(api.GET('/houses/{house}/packings', { params: { path: { house: house.id } } })),
    staleTime: Infinity,
  }));
