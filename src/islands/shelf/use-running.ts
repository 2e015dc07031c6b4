import { useMemo } from 'react';
import { fetchRunning } from '../rehearsal/rehearsal-api';
import { useFetched } from '../ui/use-fetched';

/** The ports at which captures are rehearsed, by their ids. Where that cannot be told, none are. */
export function useRunningPorts(): ReadonlyMap<string, readonly number[]> {
  const [running] = useFetched(fetchRunning);
  return useMemo(() => {
    const ports = new Map<string, number[]>();
    if (running.state !== 'there') return ports;
    for (const { captureId, port } of running.value)
      if (port !== undefined) ports.set(captureId, [...(ports.get(captureId) ?? []), port]);
    return ports;
  }, [running]);
}
