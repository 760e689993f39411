import type { DeviceView } from '../../api/types';

/** The sheet's columns: times at the left, then the devices. */
export const columns = (devices: DeviceView[]) => ({
  gridTemplateColumns: `78px repeat(${devices.length}, minmax(0, 1fr))`,
});
