import { MintError } from '@mint-tally/core';
import type { Config } from '../config/config.ts';
import { HttpRenderService } from './http-service.ts';
import { LocalCommandService } from './local-command.ts';
import type { RenderService } from './service.ts';

/** Every render service that the configuration names. */
export function makeServices(config: Config): RenderService[] {
  const remote = config.renderServices.map((address) => new HttpRenderService(address));
  return config.localCommand ? [...remote, new LocalCommandService(config.localCommand, config.dataFolder)] : remote;
}

/** @throws MintError when there is none of this name */
export function findService(services: readonly RenderService[], name: string): RenderService {
  const service = services.find((one) => one.name === name);
  if (!service) {
    throw new MintError('no-service', `There is no render service called ${name}.`, {
      remedy: services.length === 0 ? 'Name one in mint-tally.config.json.' : `There are: ${services.map((one) => one.name).join(', ')}.`,
    });
  }
  return service;
}
