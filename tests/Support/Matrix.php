<?php

declare(strict_types=1);

namespace Tests\Support;

/**
 * Who may call which route, and with what: the one list that a new route must be put on. Actors see all groups ("all"), the group of the
 * desk's workload ("own") or another ("else"); the requester of the request is "asker".
 */
final class Matrix
{
    public const ACTORS = [
        'guest', 'asker', 'requester all', 'requester else', 'operator all', 'operator own', 'operator else',
        'approver all', 'approver own', 'approver else', 'auditor all', 'auditor own', 'auditor else', 'administrator all',
    ];

    /** Works the desk, for what they see. */
    private const OPERATORS = ['operator all', 'operator own'];

    /** Sees the work, for what they see. */
    private const SEEING = ['operator all', 'operator own', 'approver all', 'approver own', 'auditor all', 'auditor own'];

    /** Everybody but who only asks. */
    private const ESTATE = [...self::SEEING, 'operator else', 'approver else', 'auditor else'];

    private const SIGNED_IN = [...self::ESTATE, 'asker', 'requester all', 'requester else', 'administrator all'];

    /** Sees who may reach what. */
    private const RIGHTS = ['auditor all', 'auditor own', 'auditor else', 'administrator all'];

    private const SECOND = ['operator all', 'approver all', 'approver own'];

    /**
     * METHOD address => actors who may, and a body as its form sends it
     *
     * @return array<string, array{list<string>, array<string, mixed>}>
     */
    public static function routes(): array
    {
        return [
            'GET health' => [self::ACTORS, []],
            'POST requests/{recoveryRequest}/enrolment' => [self::OPERATORS, []],
            'GET requests/{recoveryRequest}/blank' => [self::OPERATORS, []],
            'POST requests/{recoveryRequest}/blank' => [self::OPERATORS, ['do' => 'read']],
            'GET media' => [['operator all', 'operator own', 'operator else'], []],
            'POST media' => [['operator all', 'operator own', 'operator else'], ['format' => 'tape']],
            'GET media/{file}' => [['operator all', 'operator own', 'operator else'], []],
            'GET own-machines' => [[], []], // of who may bring a machine onto other disks: OwnMachinesTest
            'POST own-machines/{workload}/code' => [[], []],
            'GET own-machines/enrolments/{enrolment}' => [[], []],
            'POST own-machines/enrolments/{enrolment}' => [[], ['do' => 'end']],
            'GET enrolments/{enrolment}' => [self::SEEING, []],
            'POST enrolments/{enrolment}' => [self::OPERATORS, ['do' => 'end']],
            'GET agents' => [self::ESTATE, []],
            'POST agents' => [
                ['operator all', 'operator own', 'operator else'],
                ['name' => 'gate-console', 'desk' => 'desk.sorrelsound.example:13480', 'group' => 'crew office'],
            ],
            'POST agents/{agent}' => [self::OPERATORS, []],
            'POST agent/enrol' => [self::ACTORS, []],
            'GET agent/orders' => [self::ACTORS, []],
            'GET agent/wanted/{sequence}' => [self::ACTORS, []],
            'POST agent/piece/{sequence}/{piece}' => [self::ACTORS, []],
            'POST agent/done/{sequence}' => [self::ACTORS, []],
            'GET agent/alive/{sequence}' => [self::ACTORS, []],
            'POST metal/enrol' => [self::ACTORS, []],
            'GET metal/orders' => [self::ACTORS, []],
            'GET metal/orders/signature' => [self::ACTORS, []],
            'GET metal/content/{content}/{piece}' => [self::ACTORS, []],
            'POST metal/listing/{listing}/{part}/{piece}' => [self::ACTORS, []],
            'POST metal/progress/{step}' => [self::ACTORS, []],
            'GET sign-in' => [['guest'], []],
            'POST sign-in' => [['guest'], ['email' => 'nobody@sorrelsound.example', 'password' => 'nine wet ropes']],
            'POST sign-out' => [self::SIGNED_IN, []],
            'GET sessions' => [self::SIGNED_IN, []],
            'POST sessions' => [self::SIGNED_IN, []],
            'GET password' => [self::SIGNED_IN, []],
            'POST password' => [self::SIGNED_IN, ['password' => 'tide-table-9']],
            'GET /' => [self::SIGNED_IN, []],
            'POST filters' => [self::SIGNED_IN, ['do' => 'keep', 'name' => 'mine', 'q' => 'roster']],
            'GET estate' => [self::ESTATE, []],
            'POST look-again' => [self::ESTATE, []],
            'GET stores' => [self::ESTATE, []],
            'GET kinds' => [self::ESTATE, []],
            'GET use' => [self::ESTATE, []],
            'GET activity' => [self::ESTATE, []],
            'GET activity/{sort}/{id}' => [self::SEEING, []],
            'GET alarms' => [self::ESTATE, []],
            'POST alarms/{alarm}' => [['operator all', 'operator own', 'approver all', 'approver own'], []],
            'GET proofs' => [self::ESTATE, []],
            'GET search' => [self::SIGNED_IN, ['q' => 'roster']],
            'GET stores/{store}/cartridges/{label}' => [self::SEEING, []],
            'POST stores/{store}/cartridges/{label}' => [self::OPERATORS, ['do' => 'out']],
            'POST stores/{store}/checks' => [self::OPERATORS, ['mb' => 10, 'from' => '02:00', 'until' => '05:00']],
            'POST sources' => [['operator all', 'operator own', 'operator else'], ['sources' => ['nothing']]],
            'GET hypervisors/{hypervisor}/machines/{machine}' => [self::SEEING, []],
            'GET hypervisors/{hypervisor}/machines/{machine}/screen' => [self::OPERATORS, []],
            'POST hypervisors/{hypervisor}/machines/{machine}/look' => [self::OPERATORS, []],
            'POST hypervisors/{hypervisor}/machines/{machine}/turn' => [self::OPERATORS, ['turn' => 'start']],
            'POST hypervisors/{hypervisor}/machines/{machine}/snapshot' => [self::OPERATORS, ['keep' => 'kaiseki-x']],
            'POST hypervisors/{hypervisor}/machines/{machine}/type' => [self::OPERATORS, ['line' => 'root']],
            'GET trail' => [['auditor all', 'auditor own', 'auditor else'], ['of' => 'crew']],
            'GET trail.jsonl' => [['auditor all', 'auditor own', 'auditor else'], []],
            'GET rights' => [self::RIGHTS, ['of' => 'crew']],
            'GET rights/{sort}/{id}' => [self::RIGHTS, []],
            'POST rights/{sort}/{id}' => [
                ['administrator all'],
                ['group' => 'piers', 'role' => 'operator', 'may' => ['read'], 'do' => 'give'],
            ],
            'GET people' => [self::RIGHTS, []],
            'GET people/{user}' => [self::RIGHTS, []],
            'POST people/{user}' => [['administrator all'], ['role' => 'operator', 'sees' => 'some', 'groups' => ['piers']]],
            ...self::ofWorkload(), ...self::ofSet(), ...self::ofRequest(), ...self::ofRun(),
            'GET approvals/{approval}' => [self::SEEING, []],
            'POST approvals/{approval}' => [self::SECOND, ['do' => 'refuse', 'words' => 'Not now']],
            'GET consents/{consent}' => [self::SEEING, []],
            'POST consents/{consent}' => [['approver all', 'approver own'], ['do' => 'refuse', 'words' => 'Not now']],
        ];
    }

    /** @return array<string, array{list<string>, array<string, mixed>}> */
    private static function ofWorkload(): array
    {
        return [
            'GET workloads/{workload}' => [self::SEEING, []],
            'GET workloads/{workload}/care' => [self::SEEING, []],
            'GET workloads/{workload}/versions' => [self::OPERATORS, ['path' => 'tree/roster']],
            'GET workloads/{workload}/compare' => [self::OPERATORS, ['path' => 'tree/roster']],
            'POST workloads/{workload}/approval' => [['operator all', 'operator own', 'approver all', 'approver own'], ['needs' => '1']],
            'POST workloads/{workload}/sets' => [self::OPERATORS, ['level' => 'full', 'store' => 'STORE']],
            'POST workloads/{workload}/schedule' => [
                self::OPERATORS,
                ['times' => '30 1 * * *=full', 'store' => 'STORE', 'zone' => 'UTC', 'copy_to' => ['STORE'], 'on' => '1'],
            ],
            'POST workloads/{workload}/rules' => [self::OPERATORS, ['store' => 'STORE', 'rule' => 'last=7']],
            'POST workloads/{workload}/exclusions' => [self::OPERATORS, ['do' => 'add', 'pattern' => '*.tmp', 'because' => 'passing']],
            'POST workloads/{workload}/expire' => [self::OPERATORS, ['plan' => 'x']],
            'POST workloads/{workload}/promises' => [self::OPERATORS, ['rpo' => '26h', 'rto' => '4h']],
            'POST workloads/{workload}/read-back' => [self::OPERATORS, []],
        ];
    }

    /** @return array<string, array{list<string>, array<string, mixed>}> */
    private static function ofSet(): array
    {
        return [
            'GET sets/{backupSet}' => [self::SEEING, []],
            'GET sets/{backupSet}/file' => [self::OPERATORS, ['path' => 'tree/roster']],
            'GET sets/{backupSet}/look' => [self::OPERATORS, ['path' => 'tree/roster']],
            'GET sets/{backupSet}/picture' => [self::OPERATORS, ['path' => 'tree/picture.png']],
            'POST sets/{backupSet}/read-back' => [self::OPERATORS, []],
            'POST sets/{backupSet}/mend' => [self::OPERATORS, ['copy' => 'COPY']],
            'POST sets/{backupSet}/verdict' => [self::OPERATORS, ['verdict' => 'good', 'reason' => 'It was meant so.']],
            'POST sets/{backupSet}/holds' => [self::OPERATORS, ['reason' => 'The insurers ask.', 'until' => '2030-01-01']],
            'POST sets/{backupSet}/holds/{hold}/lift' => [self::OPERATORS, []],
        ];
    }

    /** @return array<string, array{list<string>, array<string, mixed>}> */
    private static function ofRequest(): array
    {
        $work = [
            'workload' => ['workload' => 'WORKLOAD'], 'moment' => ['wanted_at' => 'yesterday evening'],
            'point' => ['set' => 'SET'], 'demands' => ['demand' => 'checked'],
            'selection' => ['path' => 'tree/roster', 'do' => 'only'],
            'destination' => ['destination' => 'host', 'host' => 'HOST', 'folder' => 'back', 'conflict' => 'beside'],
            'across' => [], 'copies' => ['from' => ['STORE' => 'use']], 'bring' => [], 'how' => ['layout' => 'flat'],
            'select' => ['do' => 'paste', 'list' => 'tree/roster'], 'bin' => ['file' => '.Trash-0%2Ffiles%2Fx'],
            'version' => ['path' => 'tree/roster', 'set' => 'SET'], 'start' => ['starts_at' => '2035-01-01 10:00'],
            'run' => ['order' => 'ORDER'],
        ];
        $routes = [
            'GET requests/new' => [[...self::OPERATORS, 'operator else', 'asker', 'requester all', 'requester else'], []],
            'POST requests' => [
                [...self::OPERATORS, 'operator else', 'asker', 'requester all', 'requester else'],
                ['summary' => 'Gone', 'reason' => 'Needed', 'wanted_at' => 'yesterday evening', 'due_at' => '2035-01-01 10:00'],
            ],
            'GET requests/{recoveryRequest}' => [[...self::SEEING, 'asker'], ['show' => 'what']],
            'POST requests/{recoveryRequest}/answer' => [[...self::OPERATORS, 'asker'], ['answer' => 'yes']],
            'GET requests/{recoveryRequest}/hand-sheet' => [self::OPERATORS, []],
            // Of a request about files there is none: 404 for who may, 403 for everybody else.
            'POST requests/{recoveryRequest}/database/look' => [self::OPERATORS, ['look' => 'server', 'show' => 'when']],
            'POST requests/{recoveryRequest}/items' => [self::OPERATORS, ['settle' => 'how', 'conflict' => 'beside']],
            'GET own' => [[], []], // of who has a mailbox that a rule is about: OwnItemsTest
            'GET own/{workload}' => [self::SIGNED_IN, []],
            'POST own/{workload}/pick' => [self::SIGNED_IN, []],
            'GET own/{workload}/order' => [self::SIGNED_IN, []],
            'POST own/{workload}/order' => [self::SIGNED_IN, []],
            'GET own/{workload}/{item}/letter' => [self::SIGNED_IN, []],
            'GET own/{workload}/{item}/source' => [self::SIGNED_IN, []],
            'GET own/{workload}/{item}/part/{number}' => [self::SIGNED_IN, []],
            'POST workloads/{workload}/own-items' => [self::OPERATORS, ['do' => 'end']],
            'POST requests/{recoveryRequest}/items/look' => [self::OPERATORS, ['show' => 'where']],
            'GET requests/{recoveryRequest}/items/{item}/letter' => [self::OPERATORS, []],
            'GET requests/{recoveryRequest}/items/{item}/source' => [self::OPERATORS, []],
            'GET requests/{recoveryRequest}/items/{item}/part/{number}' => [self::OPERATORS, []],
            'POST requests/{recoveryRequest}/machine/search' => [self::OPERATORS, ['q' => 'roster']],
            'POST requests/{recoveryRequest}/machine' => [self::OPERATORS, ['settle' => 'how', 'format' => 'raw']],
            'POST requests/{recoveryRequest}/database' => [self::OPERATORS, ['set' => 'question', 'query' => 'SELECT 1']],
        ];
        foreach ($work as $part => $body) {
            $routes["POST requests/{recoveryRequest}/$part"] = [self::OPERATORS, $body];
        }

        return $routes;
    }

    /** @return array<string, array{list<string>, array<string, mixed>}> */
    private static function ofRun(): array
    {
        return [
            'GET runs/{run}' => [self::SEEING, []],
            'GET runs/{run}/progress' => [self::SEEING, []],
            'GET runs/{run}/{which}' => [self::SEEING, []],
            // Of a run that brought files there is none: 404 for who may.
            'GET runs/{run}/zip' => [[...self::OPERATORS, 'asker'], []],
            'GET runs/{run}/images/{file}' => [[...self::OPERATORS, 'asker'], []],
            'GET runs/{run}/download' => [[...self::OPERATORS, 'asker'], []],
            'POST runs/{run}/resume' => [self::OPERATORS, []],
            'POST runs/{run}/settle' => [self::OPERATORS, ['limit' => '5']],
            'POST runs/{run}/inside' => [self::OPERATORS, ['sort' => 'run', 'what' => 'hostname', 'why' => 'to see']],
            'POST runs/{run}/scan' => [self::OPERATORS, []],
            'POST runs/{run}/findings/{finding}' => [self::OPERATORS, ['verdict' => 'harmless', 'why' => 'a test']],
            'POST runs/{run}/release' => [self::OPERATORS, []],
            'POST runs/{run}/stand-in' => [self::OPERATORS, []],
            'POST runs/{run}/home' => [self::OPERATORS, []],
            'POST runs/{run}/accept' => [self::OPERATORS, ['sure' => '1']],
            'GET runs/{run}/annex.pcapng' => [self::OPERATORS, []],
            'POST runs/{run}/seen' => [['asker'], []],
            'POST runs/{run}/put-back' => [self::OPERATORS, ['also_changed' => '1']],
            'POST runs/{run}/set-aside' => [self::OPERATORS, []],
            'POST runs/{run}/stop' => [['operator all', 'operator own', 'approver all', 'approver own'], []],
        ];
    }
}
