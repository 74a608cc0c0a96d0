import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { expectEach } from '../run-for-tests.ts';

test('people, groups, services, tokens and rules: each is given, shown and taken', async (t) => {
  const service = await startTestService(t);
  await service.project('timetable');
  await service.person('wren', 'builder', 'timetable');
  await expectEach(service.operator, [
    ['who', 0, /^ines \(ines\): operator of the installation$/m],
    ['members timetable', 0, /^wren +wren +builder/m],
    ['people', 0, /^ines [\s\S]*^wren /m],
    ['invite timetable --role reader', 0, /\/join#/],
    ['grant timetable wren releaser', 0, /wren is releaser of timetable\./],
    ['grant timetable nobody reader', 3, /There is no person "nobody"/],
    ['grant-everywhere wren reader', 0, /wren/],
    ['make-group release-desk', 0, /release-desk is there, with nobody in it/],
    ['make-group release-desk', 3, /\(name-taken\)/],
    ['join-group release-desk wren', 0, /wren is in release-desk\./],
    ['groups', 0, /^release-desk +release-desk +wren/m],
    ['leave-group release-desk wren', 0, /wren is no longer in release-desk\./],
    ['end-group release-desk --yes', 0, /release-desk has ended\./],
    ['make-service timetable deployer', 0, /deployer is reader of timetable\./],
    ['service-token timetable deployer', 0, /vaq_[\w-]{43}/],
    ['services timetable', 0, /^deployer, deployer: reader$/m],
    ['end-service timetable deployer', 0, /deployer has ended; its tokens open nothing any more\./],
    ['make-token laptop --kind git', 0, /^vaq_[\w-]{43}\n[\s\S]*It is not shown again\./],
    ['tokens', 0, /laptop +Git only/],
    ['revoke-token laptop', 3, /There is no token "laptop"[\s\S]*vaquero tokens/],
    ['sign-in-rule', 0, /A second factor is demanded of nobody\./],
    ['password-link wren', 0, /\/password#[\w-]{43}\n/],
    ['password-link nobody', 3, /There is no person "nobody"/],
    ['end-second-factor wren --yes', 3, /\(no-factor\)/],
    ['mail', 0, /This installation sends no mail\./],
    ['second-factor ines', 3, /Name and password do not belong together/, { values: ['guessed'] }],
    ['sign-out', 0, /Signed out; \d+ command-line tokens? (?:is|are) taken back\./],
    ['sign-in wren', 3, /Name and password do not belong together/, { values: ['guessed'] }],
  ]);
});
