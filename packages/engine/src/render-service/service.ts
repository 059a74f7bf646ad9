import type { Machine, MachineControl, RenderTaskControl, RenderTaskRequest, RenderTask, ServiceDescription } from '@mint-tally/core';

/**
 * A render service as the engine sees it: whoever renders frames, somewhere. Everything may throw a
 * ServiceError, because whatever is somewhere may be gone.
 */
export interface RenderService {
  readonly name: string;
  /** True when frames arrive without the service knowing of each; the folder then tells. */
  readonly reportsNothing?: boolean;
  /** True when nobody may ask for another command than the one that it describes. */
  readonly fixedCommand?: boolean;
  describe(): Promise<ServiceDescription>;
  machines(): Promise<Machine[]>;
  controlMachine(name: string, control: MachineControl): Promise<void>;
  /** Asking again for the same task changes nothing. */
  takeTask(id: string, request: RenderTaskRequest): Promise<void>;
  /** Null when the service knows no such task: it has been started anew since. */
  status(id: string, afterLine: number): Promise<RenderTask | null>;
  control(id: string, control: RenderTaskControl): Promise<void>;
  /** Ends what it has running here, where it has something. */
  close?(): void;
}
