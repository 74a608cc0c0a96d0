import { useMutation } from '@tanstack/react-query';
import { queries } from '../http/api.ts';

/** An act on an environment: when it has ended, however it did, all that is shown of the project is asked for again. */
export function useMove<Reply>(project: string, act: () => Promise<Reply>, done: () => void) {
  return useMutation({
    mutationFn: act,
    onSuccess: done,
    onSettled: () => queries.invalidateQueries({ queryKey: [project] }),
  });
}
