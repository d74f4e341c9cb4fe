<?php

declare(strict_types=1);

use App\Agents\Agent;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Kinds\Machines\Metal\Enrolment;
use App\Models\Alarm;
use App\Models\Approval;
use App\Models\Consent;
use App\Models\Hold;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Trees\Run\RunCarrier;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\Route as Routes;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Tests\Support\Desk;
use Tests\Support\Matrix;

/** The names of parameters that the code behind an address asks for, as far as it writes them out, and those of its form. */
function parametersOf(Illuminate\Routing\Route $route): array
{
    $controller = explode('@', ltrim((string) $route->getAction('controller'), '\\'))[0];
    $files = [(string) (new ReflectionClass($controller))->getFileName()];
    preg_match_all('/^use (App\\\\(?:View|Http\\\\Requests)\\\\\w+);/m', (string) file_get_contents($files[0]), $used);
    foreach ($used[1] as $class) {
        $files[] = (string) (new ReflectionClass($class))->getFileName();
        preg_match_all('/(?:new |\b)(\w+)(?:\(\$|::of\(\$)/', (string) file_get_contents(end($files)), $more);
        foreach (array_unique($more[1]) as $view) {
            class_exists("App\\View\\$view") && $files[] = (string) (new ReflectionClass("App\\View\\$view"))->getFileName();
        }
    }
    $source = implode("\n", array_map(fn (string $file): string => (string) file_get_contents($file), array_unique($files)));
    preg_match_all(
        '/(?:http|request|this)->(?:string|integer|boolean|input|filled|has|query|float|date|filledText|seconds)\(\'(\w+)\'/',
        $source, $asked,
    );
    preg_match_all('/\'(\w+)\' => (?:\[\'(?:required|nullable|present|array)|\'(?:required|nullable|array))/', $source, $ruled);

    return array_values(array_unique([...$asked[1], ...$ruled[1]]));
}

beforeEach(function (): void {
    Queue::fake();
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'the good one'), fn ($a) => $a->put('later', 'later'));
    $this->kaiseki('store-add', 'vault', $this->scratch()->path.'/tapes', '--kind=tape', '--cartridges=HV1', '--slots=1');
    $this->desk->into('new-folder', ['tree']);
    $run = Approvals::order($this->desk->request->refresh(), $this->desk->operator, $this->desk->order(), false);
    assert($run instanceof Run);
    (new RunCarrier)->carryOut($run);
    $this->desk->request->update(['state' => 'open']);
    $other = $this->desk->person(Role::Operator);
    $machine = new MachineSeen(new MachineSettings('kelp', [new DiskSettings('system', 1 << 20)]), ['system' => 'fast'], ['system' => 0]);
    $hypervisor = HypervisorHost::query()->create([
        'name' => 'ketch', 'site' => 'boathouse', 'folder' => $this->scratch()->path,
        'seen' => (new SeenHost(new HostRoom(1024, 1024, 1, 1, [], []), ['kelp' => $machine]))->toArray(),
    ]);
    Desk::belongs($hypervisor, 'crew office');
    $workload = Workload::query()->value('id');
    $this->ids = [
        '{store}' => 'vault', '{label}' => 'HV1', '{sort}/{id}' => "restored/{$run->id}", '{user}' => $this->desk->requester->id,
        '{hypervisor}' => $hypervisor->id, '{machine}' => 'kelp', '{file}' => 'kelp.b2sum', '{finding}' => 1,
        '{alarm}' => Alarm::query()->create(['sort' => 'doubt', 'open' => 'x', 'words' => 'x', 'page' => '/', 'raised_at' => now()])->id,
        'rights/{sort}/{id}' => 'rights/store/'.Store::query()->value('id'),
        '{workload}' => $workload, '{backupSet}' => $this->desk->set(0)->id,
        '{hold}' => Hold::query()->create(['set_id' => $this->desk->set(0)->id, 'reason' => 'kept', 'user_id' => null])->id,
        '{recoveryRequest}' => $this->desk->request->id,
        '{approval}' => Approval::query()->create([
            'request_id' => $this->desk->request->id, 'order' => 'x', 'sentence' => 'x', 'set_first' => false,
            'preview' => [], 'state' => 'asked', 'asked_by' => $other->id, 'asked_at' => now(),
        ])->id,
        '{consent}' => Consent::query()->create([
            'workload_id' => $workload, 'deed' => 'lift-mark', 'detail' => [], 'words' => 'x', 'asked_by' => $other->id,
            'asked_at' => now(),
        ])->id,
        '{run}' => $run->id, '{which}' => 'proof', '{item}' => str_repeat('a', 16), '{number}' => 0,
        '{content}' => 0, '{piece}' => 0, '{listing}' => 0,
        '{part}' => 'sum', '{step}' => 'alive',
        '{agent}' => Agent::open($this->desk->set(0)->workload, null)[0]->id, '{sequence}' => 1,
        '{enrolment}' => Enrolment::open($this->desk->set(0)->workload, null, null)[0]->id,
    ];
    $this->actingAs($this->desk->operator);
    $this->call_ = function (string $method, string $url, array $parameters): int {
        DB::beginTransaction();
        $status = $method === 'GET'
            ? $this->get($url.($parameters === [] ? '' : '?'.http_build_query($parameters)))->getStatusCode()
            : $this->post($url, $parameters)->getStatusCode();
        while (DB::transactionLevel() > 1) {
            DB::rollBack();
        }
        $this->actingAs($this->desk->operator);

        return $status;
    };
});

it('holds that lists, and values that no form sends, are refused and break nothing', function (): void {
    $odd = [
        ['a'], [['b' => ['c']]], '99999999999999999999999999', '-1', "\xff\xfe", str_repeat('../', 9_000),
        "'; DROP TABLE users; --", '',
    ];
    $wrong = [];
    foreach (Matrix::routes() as $route => [, $body]) {
        [$method, $uri] = explode(' ', $route);
        $url = '/'.ltrim(strtr($uri, $this->ids), '/');
        $body = array_filter($body, fn (mixed $value): bool => ! is_string($value) || preg_match('/^[A-Z]+$/', $value) !== 1);
        $taken = parametersOf(Routes::getRoutes()->match(Illuminate\Http\Request::create($url, $method)));
        foreach (array_unique([...$taken, ...array_keys($body)]) as $name) {
            foreach ($odd as $value) {
                $status = ($this->call_)($method, $url, [$name => $value] + $body);
                if ($status >= 500 || (is_array($value) && $status === 200 && ! in_array($uri, ['health', 'sign-out'], true))) {
                    $wrong[] = mb_strimwidth("$route $name=".json_encode($value, JSON_INVALID_UTF8_SUBSTITUTE).": $status", 0, 120);
                }
            }
        }
    }
    expect($wrong)->toBe([]);
});

it('breaks at no id that could be typed', function (): void {
    $odds = [
        '0', '-1', '99999999999999999999999999', '1e9', 'abc', '%FF%FE', '%00', '1%2F2', '..', str_repeat('9', 3000), "1'--", '１',
    ];
    $wrong = [];
    foreach (array_keys(Matrix::routes()) as $route) {
        [$method, $uri] = explode(' ', $route);
        foreach (str_contains($uri, '{') ? $odds : [] as $odd) {
            $status = ($this->call_)($method, '/'.preg_replace('/\{\w+\}/', $odd, $uri, 1), []);
            if (preg_match('/\{\w+\}.*\{\w+\}/', $uri) === 1) {
                continue;
            }
            if (! in_array($status, [302, 400, 403, 404, 405, 422], true)) {
                $wrong[] = "$method $uri with $odd: $status";
            }
        }
    }
    expect(array_map(fn (string $one): string => mb_strimwidth($one, 0, 120), $wrong))->toBe([]);
});

it('finds files by their names, which are bytes', function (): void {
    $this->desk->archives->put("odd\xff.txt", 'what it holds');
    $set = $this->desk->archives->dump('full');
    $this->kaiseki('adopt', $this->desk->archives->folder, '--as=crew');
    $id = App\Models\BackupSet::query()->where('name', $set)->value('id');
    expect($this->get("/sets/$id/file?path=".rawurlencode("tree/odd\xff.txt"))->assertOk()->streamedContent())->toBe('what it holds');
    $this->get("/workloads/{$this->ids['{workload}']}/versions?path=".rawurlencode("tree/odd\xff.txt"))->assertOk()
        ->assertSee('1 version in');
});
