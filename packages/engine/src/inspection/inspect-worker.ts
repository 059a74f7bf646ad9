import { workerData } from 'piscina';
import { inspectTasks, type InspectionResult, type InspectionTask } from './inspect-tasks.ts';
import { MemoryBudget } from './memory-budget.ts';

const budget = new MemoryBudget((workerData as { readonly budget: SharedArrayBuffer }).budget);

/** The worker threads' work. */
export default function inspect(tasks: readonly InspectionTask[]): Promise<InspectionResult[]> {
  return inspectTasks(tasks, budget);
}
