import type { Machine, MachineControl, OrderControl, OrderRequest, RenderOrder, ServiceDescription } from '@mint-tally/core';

/**
 * A render service as the engine sees it: whoever renders frames, somewhere. Everything may throw a
 * ServiceError, because whatever is somewhere may be gone.
 */
export interface RenderService {
  readonly name: string;
  /** True when frames arrive without the service knowing of each; the folder then tells. */
  readonly reportsNothing?: boolean;
  /** True when nobody may order another command than the one that it describes. */
  readonly fixedCommand?: boolean;
  describe(): Promise<ServiceDescription>;
  machines(): Promise<Machine[]>;
  controlMachine(name: string, control: MachineControl): Promise<void>;
  /** Asking again for the same order changes nothing. */
  order(id: string, request: OrderRequest): Promise<void>;
  /** Null when the service knows no such order: it has been started anew since. */
  status(id: string, afterLine: number): Promise<RenderOrder | null>;
  control(id: string, control: OrderControl): Promise<void>;
  /** Ends what it has running here, where it has something. */
  close?(): void;
}
