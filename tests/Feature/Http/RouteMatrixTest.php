<?php

declare(strict_types=1);

use App\Agents\Agent;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\MachineLook;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Kinds\Machines\Metal\Enrolment;
use App\Models\Alarm;
use App\Models\Approval;
use App\Models\BackupSet;
use App\Models\Consent;
use App\Models\Copy;
use App\Models\Hold;
use App\Models\Host;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Trees\Run\RunCarrier;
use Illuminate\Routing\Route;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\Route as Routes;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Tests\Support\Desk;
use Tests\Support\Matrix;

// Every route, by every role, limited and not, with ids of one's own and of others, and bodies as the forms send them.

/** Routes of which the desk of these tests has nothing, and what is there for recovery media and agents only, by their own line. */
const NOT_THERE = '~/(database|items|machine|images|zip|settle|inside|scan|findings|release|stand-in|home|accept|type|snapshot)(/|$)|'.
    '/(enrolment|blank|annex.pcapng|own-items)$|^own/|^own-machines/|^media/|/seen$|'.
    '^(metal|agent)/~';

beforeEach(function (): void {
    Queue::fake();
    $this->desk = new Desk(
        $this,
        fn ($a) => $a->put('roster', 'the good one')->put(
            'picture.png',
            (string) base64_decode('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='),
        ),
        fn ($a) => $a->put('later', 'later'),
    );
    $this->kaiseki('store-add', 'vault', $this->scratch()->path.'/tapes', '--kind=tape', '--cartridges=HV1', '--slots=1');
    $set = $this->desk->set(0);
    $workload = Workload::query()->sole();
    Workload::query()->create(['name' => 'piers-files', 'kind' => 'files', 'group' => 'piers']);
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'));
    $this->store = Store::query()->where('name', 'near')->sole();
    Copy::query()->create([
        'set_id' => $set->id, 'workload_id' => $workload->id,
        'store_id' => Store::query()->where('name', 'vault')->value('id'), 'path' => 'x', 'bytes' => 1,
        'gzipped' => true, 'state' => 'ok', 'segments' => [['label' => 'HV1', 'position' => 0, 'bytes' => 1]],
    ]);
    Copy::query()->create([
        'set_id' => $set->id, 'workload_id' => $workload->id, 'store_id' => $this->store->id, 'path' => 'x',
        'bytes' => 1, 'gzipped' => true, 'state' => 'ok',
    ]);
    $this->host = Host::query()->create(['name' => 'crew', 'kind' => 'folder', 'folder' => $this->desk->live, 'site' => 'boathouse']);
    $machine = new MachineSeen(new MachineSettings('kelp', [new DiskSettings('system', 1 << 20)]), ['system' => 'fast'], ['system' => 0]);
    $hypervisor = HypervisorHost::query()->create([
        'name' => 'ketch', 'site' => 'boathouse', 'folder' => $this->scratch()->path,
        'seen' => (new SeenHost(new HostRoom(1024, 1024, 1, 1, [], []), ['kelp' => $machine]))->toArray(),
    ]);
    MachineLook::query()->create([
        'hypervisor_id' => $hypervisor->id, 'machine' => 'kelp', 'state' => 'done', 'screen' => 'PNG', 'looked_at' => now(),
    ]);
    foreach ([...Store::query()->get(), $this->host, $hypervisor] as $target) {
        Desk::belongs($target, 'crew office');
    }
    $groups = ['all' => null, 'own' => ['crew office'], 'else' => ['piers']];
    $this->actors = ['guest' => null, 'asker' => $this->desk->requester];
    foreach (array_slice(Matrix::ACTORS, 2) as $actor) {
        [$role, $sees] = explode(' ', $actor);
        $this->actors[$actor] = $this->desk->person(Role::from($role), $groups[$sees]);
    }
    $this->desk->into('new-folder', ['tree']);
    $done = Approvals::order($this->desk->request->refresh(), $this->actors['operator own'], $this->desk->order(), false);
    assert($done instanceof Run);
    (new RunCarrier)->carryOut($done);
    expect($done->refresh()->state)->toBe('done', (string) $done->failure);
    $done->update(['set_aside_until' => now()->addWeek()]);
    $this->done = $done;
    $this->desk->into('download-tar', ['tree']);
    $this->desk->request->update(['state' => 'open']);
    $this->download = Approvals::order($this->desk->request->refresh(), $this->actors['operator own'], $this->desk->order(), false);
    $this->approval = Approval::query()->create([
        'request_id' => $this->desk->request->id, 'order' => 'x', 'sentence' => 'Put back.', 'set_first' => false,
        'preview' => [], 'state' => 'asked', 'asked_by' => $this->actors['operator own']->id, 'asked_at' => now(),
    ]);
    $this->consent = Consent::query()->create([
        'workload_id' => $workload->id, 'deed' => 'lift-mark', 'detail' => [], 'words' => 'Lift it.',
        'asked_by' => $this->actors['operator own']->id, 'asked_at' => now(),
    ]);
    $this->hold = Hold::query()->create(['set_id' => $set->id, 'reason' => 'kept', 'user_id' => null]);
    $alarm = Alarm::query()->create([
        'sort' => 'doubt', 'open' => 'doubt 1', 'words' => 'It is in doubt.', 'page' => '/', 'workload_id' => $workload->id,
        'raised_at' => now(),
    ]);
    $this->desk->request->update(['state' => 'open']);
    $this->ids = [
        '{store}' => 'vault', '{label}' => 'HV1', '{sort}/{id}' => "restored/{$done->id}",
        'rights/{sort}/{id}' => "rights/host/{$this->host->id}",
        '{hypervisor}' => $hypervisor->id, '{machine}' => 'kelp', '{file}' => 'kelp.b2sum', '{finding}' => 1,
        '{alarm}' => $alarm->id, '{user}' => $this->desk->requester->id,
        '{workload}' => $set->workload_id, '{backupSet}' => $set->id,
        '{hold}' => $this->hold->id, '{recoveryRequest}' => $this->desk->request->id,
        '{approval}' => $this->approval->id,
        '{consent}' => $this->consent->id, '{which}' => 'proof',
        '{item}' => str_repeat('a', 16), '{number}' => 0,
        '{content}' => 0, '{piece}' => 0, '{listing}' => 0, '{part}' => 'sum', '{step}' => 'alive',
        '{agent}' => Agent::open($set->workload, null)[0]->id, '{sequence}' => 1,
        '{enrolment}' => Enrolment::open($set->workload, null, null)[0]->id,
    ];
});

/** @return array<string, Route> METHOD address => route */
function routesOfOurs(): array
{
    $routes = [];
    foreach (Routes::getRoutes()->getRoutes() as $route) {
        foreach (array_diff($route->methods(), ['HEAD']) as $method) {
            $routes["$method {$route->uri()}"] = $route;
        }
    }

    return $routes;
}

it('has every route in the matrix, and nothing else', function (): void {
    expect(array_values(array_diff(array_keys(routesOfOurs()), array_keys(Matrix::routes()))))->toBe([])
        ->and(array_values(array_diff(array_keys(Matrix::routes()), array_keys(routesOfOurs()))))->toBe([]);
});

it('gives every role what is its own, and nothing else', function (): void {
    $set = $this->desk->set(0);
    $values = [
        'STORE' => $this->store->id, 'COPY' => Copy::query()->where('set_id', $set->id)->value('id'),
        'WORKLOAD' => $set->workload_id, 'SET' => $set->id, 'HOST' => $this->host->id, 'ORDER' => $this->desk->order(),
    ];
    $wrong = [];
    foreach (Matrix::routes() as $route => [$may, $body]) {
        [$method, $uri] = explode(' ', $route);
        array_walk_recursive($body, function (mixed &$value) use ($values): void {
            $value = $values[$value] ?? $value;
        });
        $body = isset($body['from']['STORE']) ? ['from' => [$this->store->id => 'use']] : $body;
        $url = '/'.ltrim(
            strtr($uri, ['{run}' => str_contains($route, 'download') ? $this->download->id : $this->done->id] + $this->ids),
            '/',
        );
        foreach ($this->actors as $actor => $user) {
            $this->app['auth']->forgetGuards();
            $user instanceof User && $this->actingAs($user);
            DB::beginTransaction();
            str_ends_with($uri, 'answer') && $this->desk->request->update(['state' => 'answer']);
            $response = $method === 'GET' ? $this->get($url.($body === [] ? '' : '?'.http_build_query($body))) : $this->post($url, $body);
            DB::rollBack();
            $this->desk->request->refresh();
            $status = $response->getStatusCode();
            if ($status === 200 && str_contains((string) $response->headers->get('Content-Type'), 'html')) {
                preg_match_all('/\sid="([^"]+)"/', (string) $response->getContent(), $names);
                $twice = array_keys(array_filter(array_count_values($names[1]), fn (int $times): bool => $times > 1));
                $twice === [] || $wrong[] = "$route by $actor has two of one id: ".implode(', ', $twice);
            }
            $toSignIn = $status === 302 && str_ends_with((string) $response->headers->get('Location'), '/sign-in');
            $isRight = match (true) {
                in_array($actor, $may, true) => in_array(
                    $status, preg_match(NOT_THERE, $uri) === 1 ? [404] : [200, 302, 409], true,
                ) && (! $toSignIn || $uri === 'sign-out' || $uri === 'sign-in'),
                $actor === 'guest' => $toSignIn,
                $uri === 'sign-in' => $status === 302, // signed in already
                default => $status === 403,
            };
            $isRight || $wrong[] = "$route by $actor: $status";
        }
    }
    expect($wrong)->toBe([]);
});

it('holds that what is not there is 404 for everybody, and never tells whose it would be', function (): void {
    $this->actingAs($this->actors['operator all']);
    $urls = [
        '/workloads/999999', '/sets/999999', '/requests/999999', '/runs/999999', '/approvals/999999', '/consents/999999',
        '/stores/none/cartridges/HV1', '/stores/vault/cartridges/NONE',
        '/sets/'.BackupSet::query()->value('id').'/file?path=no/such',
    ];
    foreach ($urls as $url) {
        $this->get($url)->assertNotFound();
    }
});
