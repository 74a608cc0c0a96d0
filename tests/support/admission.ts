import { admissionRoutes } from '@vaquero/contracts';
import type { TestService } from './service.ts';

/** A page of a site that is for members, as a program of the operator's sees it. */
export async function memberPage(service: TestService, host: string, path = '/') {
  const { pass } = await service.operator.call(admissionRoutes.passRoute, { body: { host } });
  return service.page(host, path, { 'vaquero-pass': pass });
}
