<?php

declare(strict_types=1);

use App\Agents\Agent;
use App\Models\Alarm;
use App\Models\Approval;
use App\Models\Consent;
use App\Models\Duty;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Role;
use App\Models\Run;
use App\Models\TargetRight;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Support\Facades\Gate;
use Tests\Support\Desk;

// Who may do what, as a table. Each person sees the group of the workload, or another; who asked is a person too, of each role.

/** ability on what => the roles that may, of those who see the group; nobody else may */
const MAY = [
    'workload.view' => ['operator', 'approver', 'auditor'],
    'workload.tend' => ['operator'],
    'workload.browse' => ['operator'],
    'workload.askForApproval' => ['operator', 'approver'],
    'workload.settleWait' => ['approver'],
    'set.view' => ['operator', 'approver', 'auditor'],
    'set.tend' => ['operator'],
    'set.open' => ['operator'],
    'request.view' => ['operator', 'approver', 'auditor'],
    'request.look' => ['operator', 'approver', 'auditor'],
    'request.work' => ['operator'],
    'run.view' => ['operator', 'approver', 'auditor'],
    'run.stop' => ['operator'],
    'run.putBack' => ['operator'],
    'run.halt' => ['operator', 'approver'],
    'run.hear' => [],
    'run.download' => ['operator'],
    'approval.view' => ['operator', 'approver', 'auditor'],
    'approval.decide' => ['operator', 'approver'],
    'approval.withdraw' => ['operator'],
    'consent.view' => ['operator', 'approver', 'auditor'],
    'consent.decide' => ['approver'],
    'consent.withdraw' => [],
    'alarm.take' => ['operator', 'approver'],
    'agent.tend' => ['operator'],
];

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $request = $this->desk->request;
    $workload = Workload::query()->sole();
    $this->on = [
        'workload' => $workload,
        'set' => $this->desk->set(0),
        'request' => $request,
        'run' => Run::query()->create([
            'workload_id' => $workload->id, 'request_id' => $request->id, 'set_id' => $this->desk->set(0)->id, 'state' => 'done',
            'plan' => [],
        ]),
        'approval' => Approval::query()->create([
            'request_id' => $request->id, 'workload_id' => $workload->id, 'order' => 'x', 'sentence' => 'Put back.', 'set_first' => false,
            'preview' => [], 'state' => 'asked', 'asked_by' => $this->desk->operator->id, 'asked_at' => now(),
        ]),
        'alarm' => Alarm::query()->create([
            'sort' => 'doubt', 'open' => 'doubt 1', 'words' => 'It is in doubt.', 'page' => '/', 'workload_id' => $workload->id,
            'raised_at' => now(),
        ]),
        'agent' => Agent::open($workload, null)[0],
        'consent' => Consent::query()->create([
            'workload_id' => $workload->id, 'deed' => 'lift-mark', 'detail' => [], 'words' => 'Lift it.',
            'asked_by' => $this->desk->operator->id, 'asked_at' => now(),
        ]),
    ];
    $this->may = fn (User $user, string $what): bool => Gate::forUser($user)->allows(
        explode('.', $what)[1], $this->on[explode('.', $what)[0]]->refresh(),
    );
});

it('lets each role do what is its own, and nobody who sees another group', function (string $what): void {
    $group = $this->on['workload']->group;
    foreach (Role::cases() as $role) {
        $whom = "a {$role->value} who sees";
        $isOne = in_array($role->value, MAY[$what], true);
        expect(($this->may)($this->person($role), $what))->toBe($isOne, "$whom all: $what");
        expect(($this->may)($this->person($role, [$group]), $what))->toBe($isOne, "$whom its group: $what");
        expect(($this->may)($this->person($role, ['engine room']), $what))->toBeFalse("$whom another group: $what");
        expect(($this->may)($this->person($role, []), $what))->toBeFalse("$whom none: $what");
    }
})->with(array_keys(MAY));

it('has every ability of every policy in the table', function (): void {
    $names = [
        'Workload' => 'workload', 'BackupSet' => 'set', 'RecoveryRequest' => 'request', 'Run' => 'run', 'Approval' => 'approval',
        'Consent' => 'consent', 'Store' => 'store', 'Alarm' => 'alarm', 'Agent' => 'agent',
    ];
    $abilities = [];
    foreach (glob(app_path('Policies/*.php')) ?: [] as $file) {
        $class = 'App\\Policies\\'.basename($file, '.php');
        foreach ((new ReflectionClass($class))->getMethods(ReflectionMethod::IS_PUBLIC) as $method) {
            $abilities[] = $names[basename($file, 'Policy.php')].'.'.$method->getName();
        }
    }
    $otherwise = ['request.create', 'request.answer', 'store.view', 'store.tend', 'store.write', 'agent.make']; // below
    expect(array_values(array_diff($abilities, array_keys(MAY), $otherwise)))->toBe([])
        ->and(array_values(array_diff([...array_keys(MAY), ...$otherwise], $abilities)))->toBe([]);
});

it('lets who asked see what they asked and hear what came of it, and never decide on what they ask', function (): void {
    $asker = $this->desk->requester;
    expect(($this->may)($asker, 'request.view'))->toBeTrue()
        ->and(($this->may)($asker, 'request.look'))->toBeFalse()
        ->and(($this->may)($asker, 'request.work'))->toBeFalse()
        ->and(($this->may)($asker, 'run.view'))->toBeFalse()
        ->and(($this->may)($asker, 'run.hear'))->toBeTrue()
        ->and(($this->may)($asker, 'run.putBack'))->toBeFalse() // it is no order of their own
        ->and(($this->may)($asker, 'run.download'))->toBeTrue();
    expect(($this->may)($this->desk->operator, 'approval.decide'))->toBeFalse()
        ->and(($this->may)($this->desk->operator, 'consent.decide'))->toBeFalse()
        ->and(($this->may)($this->desk->operator, 'consent.withdraw'))->toBeTrue();
    // An approver who asks for something to be allowed has it decided by an operator.
    $approver = $this->person(Role::Approver);
    $this->on['consent']->update(['asked_by' => $approver->id]);
    $this->on['consent'] = $this->on['consent']->fresh();
    expect(($this->may)($this->desk->operator, 'consent.decide'))->toBeTrue()
        ->and(($this->may)($approver, 'consent.decide'))->toBeFalse();
    // What takes a duty is decided by who has it.
    $this->on['approval']->update(['duty' => Duty::Law]);
    expect(($this->may)($approver, 'approval.decide'))->toBeFalse();
    $approver->update(['duties' => [Duty::Law->value]]);
    expect(($this->may)($approver, 'approval.decide'))->toBeTrue();
});

it('takes the answer to what came back from who asked, or from an operator who has it from them', function (): void {
    $answer = fn (User $user): bool => ($this->may)($user, 'request.answer');
    expect($answer($this->desk->requester))->toBeFalse(); // nothing came back yet
    $this->on['request']->update(['state' => 'answer']);
    expect($answer($this->desk->requester))->toBeTrue()
        ->and($answer($this->desk->operator))->toBeTrue()
        ->and($answer($this->person(Role::Operator, ['engine room'])))->toBeFalse()
        ->and($answer($this->person(Role::Requester)))->toBeFalse()
        ->and($answer($this->person(Role::Approver)))->toBeFalse()
        ->and($answer($this->person(Role::Auditor)))->toBeFalse();
});

it('has files of agents made by operators, each for workloads of groups that they see', function (): void {
    foreach (Role::cases() as $role) {
        $may = Gate::forUser($this->person($role))->allows('make', Agent::class);
        expect($may)->toBe($role === Role::Operator, $role->value);
    }
});

it('lets nobody work on a request that is closed, and anybody who asks for things write one down', function (): void {
    $this->on['request']->update(['state' => 'closed']);
    expect(($this->may)($this->desk->operator, 'request.work'))->toBeFalse()
        ->and(($this->may)($this->desk->operator, 'request.view'))->toBeTrue();
    $may = fn (Role $role): bool => Gate::forUser($this->person($role))->allows('create', RecoveryRequest::class);
    $creates = array_filter(Role::cases(), $may);
    expect(array_column(array_values($creates), 'value'))->toBe(['operator', 'requester']);
});

it('lets a request that is about nothing yet be worked on by any operator, whatever they see', function (): void {
    $this->on['request']->update(['workload_id' => null]);
    expect(($this->may)($this->person(Role::Operator, ['engine room']), 'request.work'))->toBeTrue()
        ->and(($this->may)($this->person(Role::Requester), 'request.view'))->toBeFalse();
});

it('lets somebody do with a store what a rule gives to their role in a group that they see', function (): void {
    $store = App\Models\Store::query()->sole();
    $group = $this->on['workload']->group;
    TargetRight::of($store)->delete();
    TargetRight::give($store, $group, Role::Operator, [Right::Write]);
    TargetRight::give($store, $group, Role::Approver, [Right::Tend, Right::Write]);
    $may = fn (Role $role, ?array $groups): string => implode(' ', array_filter(
        ['view', 'tend', 'write'],
        fn (string $what): bool => Gate::forUser($this->person($role, $groups))->allows($what, $store),
    ));
    foreach ([null, [$group]] as $groups) {
        expect($may(Role::Operator, $groups))->toBe('view write')
            ->and($may(Role::Approver, $groups))->toBe('view tend') // an order is never an approver's own
            ->and($may(Role::Auditor, $groups))->toBe('view')
            ->and($may(Role::Administrator, $groups))->toBe('');
    }
    foreach (Role::cases() as $role) {
        expect($may($role, ['engine room']))->toBe('', $role->value);
    }
});
