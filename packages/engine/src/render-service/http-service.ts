import {
  machineSchema,
  MintError,
  renderTaskSchema,
  serviceProblemSchema,
  serviceSchema,
  type Machine,
  type MachineControl,
  type RenderTaskControl,
  type RenderTaskRequest,
  type RenderTask,
  type ServiceDescription,
} from '@mint-tally/core';
import * as z from 'zod';
import type { RenderServiceAddress } from '../config/config.ts';
import type { RenderService } from './service.ts';

/** Raised when a render service refuses, fails or cannot be reached. */
export class ServiceError extends MintError {}

const ANSWER_WITHIN = 10_000;
const machinesSchema = z.array(machineSchema).max(10_000);

/** A render service over HTTP, as docs/render-service.md describes it. */
export class HttpRenderService implements RenderService {
  readonly name: string;
  private readonly address: RenderServiceAddress;

  constructor(address: RenderServiceAddress) {
    this.address = address;
    this.name = address.name;
  }

  async describe(): Promise<ServiceDescription> {
    return this.read('/', serviceSchema);
  }

  async machines(): Promise<Machine[]> {
    return this.read('/machines', machinesSchema);
  }

  async controlMachine(name: string, control: MachineControl): Promise<void> {
    await this.send('POST', `/machines/${encodeURIComponent(name)}/control`, control);
  }

  async takeTask(id: string, request: RenderTaskRequest): Promise<void> {
    await this.send('PUT', `/tasks/${encodeURIComponent(id)}`, request);
  }

  async status(id: string, afterLine: number): Promise<RenderTask | null> {
    const response = await this.ask('GET', `/tasks/${encodeURIComponent(id)}?after=${afterLine}`);
    if (response.status === 404) return null;
    return this.parse(response, renderTaskSchema);
  }

  async control(id: string, control: RenderTaskControl): Promise<void> {
    await this.send('POST', `/tasks/${encodeURIComponent(id)}/control`, control);
  }

  private async read<Schema extends z.ZodType>(path: string, schema: Schema): Promise<z.output<Schema>> {
    return this.parse(await this.ask('GET', path), schema);
  }

  private async send(method: 'PUT' | 'POST', path: string, body: unknown): Promise<void> {
    const response = await this.ask(method, path, body);
    if (!response.ok) throw await this.problem(response);
  }

  private async parse<Schema extends z.ZodType>(response: Response, schema: Schema): Promise<z.output<Schema>> {
    if (!response.ok) throw await this.problem(response);
    const parsed = schema.safeParse(await response.json().catch(() => null));
    if (parsed.success) return parsed.data;
    const issue = parsed.error.issues[0]!;
    throw new ServiceError(
      'service-answer',
      `${this.name} answered something else than was asked for (${issue.path.join('.') || 'all of it'}: ${issue.message}).`,
      {
        remedy: 'It may speak another version of the interface.',
      },
    );
  }

  private async problem(response: Response): Promise<ServiceError> {
    const told = serviceProblemSchema.safeParse(await response.json().catch(() => null));
    const message = told.success ? told.data.message : `status ${response.status}`;
    // It is in trouble itself, or asked too often: that passes, and says nothing of what was asked.
    if (response.status >= 500 || response.status === 408 || response.status === 429) {
      return new ServiceError('service-lost', `${this.name} is in trouble (status ${response.status}): ${message}`, { remedy: 'It is asked again.' });
    }
    return new ServiceError('service-refused', `${this.name} refuses: ${message}`, { remedy: told.success ? told.data.remedy : '' });
  }

  private async ask(method: string, path: string, body?: unknown): Promise<Response> {
    try {
      return await fetch(new URL(path, this.address.url), {
        method,
        headers: { Authorization: `Bearer ${this.address.token}`, ...(body === undefined ? {} : { 'Content-Type': 'application/json' }) },
        body: body === undefined ? undefined : JSON.stringify(body),
        signal: AbortSignal.timeout(ANSWER_WITHIN),
        redirect: 'error',
      });
    } catch (thrown) {
      const cause = (thrown as Error).cause ?? thrown;
      throw new ServiceError('service-lost', `${this.name} cannot be reached (${(cause as { code?: string }).code ?? (cause as Error).message}).`, {
        remedy: 'It is asked again; what it had not done is given out anew when it is back.',
        cause: thrown,
      });
    }
  }
}
