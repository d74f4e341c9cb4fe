<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Files\Order\FilesSaid;
use App\Models\CartridgeCall;
use App\Models\Host;
use App\Models\Right;
use App\Models\Role;
use App\Models\Run;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\TargetRight;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Orders\CannotOrder;
use App\Trees\Run\RunCarrier;
use App\Trees\Run\TouchedFolder;
use Illuminate\Support\Facades\Queue;
use Tests\Support\Desk;

// What an operator who is limited to groups, and a requester, come by through a request that is about something of others.

beforeEach(function (): void {
    Queue::fake();
    $this->desk = new Desk($this, fn ($a) => $a->put('pay/salaries.csv', 'secret figures'), fn ($a) => $a->put('pay/more', 'x'));
    $this->limited = $this->desk->person(Role::Operator, ['piers']);
    $this->mine = Workload::query()->create([
        'name' => 'piers-files', 'kind' => 'files', 'group' => 'piers',
        'source' => $this->scratch()->folder('hosts/piers/files'),
    ]);
    $this->ran = function (): Run {
        $this->desk->into('new-folder', ['tree/pay']);
        $run = Approvals::order($this->desk->request->refresh(), $this->desk->operator, $this->desk->order(), false);
        (new RunCarrier)->carryOut($run);

        return $run->refresh();
    };
    $this->pages = fn (Run $run): array => [
        $this->desk->url, "{$this->desk->url}?show=proof", "{$this->desk->url}?show=what", "/runs/{$run->id}",
        "/runs/{$run->id}/proof", "/runs/{$run->id}/manifest", "/runs/{$run->id}/page", "/runs/{$run->id}/pdf",
        "/runs/{$run->id}/progress", "{$this->desk->url}/hand-sheet", '/', '/proofs', '/estate', '/stores',
        "/workloads/{$this->desk->request->workload_id}", '/search?q=salar', '/search?q=pay',
    ];
    $this->nothing = function (array $pages): void {
        foreach ($pages as $page) {
            $response = $this->get($page);
            $text = $response->getStatusCode() === 200 ? (string) $response->getContent() : '';
            foreach (['salaries', 'tree/pay', $this->desk->live, 'adopted-crew', 'crew.full'] as $theirs) {
                expect($text)->not->toContain($theirs);
            }
        }
    };
});

it('gives an operator elsewhere, who asked, what a requester has and nothing more', function (): void {
    $run = ($this->ran)();
    $this->desk->request->update(['requester_id' => $this->limited->id]);
    $this->actingAs($this->limited);
    $this->get($this->desk->url)->assertOk()->assertSee('Something is gone')->assertDontSee('crew');
    ($this->nothing)(($this->pages)($run));
    $deeds = [
        "{$this->desk->url}/selection" => [], "{$this->desk->url}/run" => ['order' => 'x'],
        "{$this->desk->url}/destination" => ['destination' => 'new-folder', 'conflict' => 'beside'],
        "/runs/{$run->id}/put-back" => [], "/runs/{$run->id}/stop" => [],
    ];
    foreach ($deeds as $url => $body) {
        $this->post($url, $body)->assertForbidden();
    }
    $this->get("{$this->desk->url}/hand-sheet")->assertForbidden();
    $this->get("/runs/{$run->id}/manifest")->assertForbidden();
});

it('gives a requester nothing of a workload that they do not see', function (): void {
    $run = ($this->ran)();
    $other = $this->desk->person(Role::Requester, ['piers']);
    $this->desk->request->update(['requester_id' => $other->id]);
    $this->actingAs($other)->get($this->desk->url)->assertOk()->assertSee('Something is gone')
        ->assertDontSee('came back, and')->assertDontSee('crew');
    ($this->nothing)(($this->pages)($run));
    $this->desk->into('download-zip', ['tree/pay']);
    $this->desk->request->update(['state' => 'open']);
    $download = Approvals::order($this->desk->request->refresh(), $this->desk->operator, $this->desk->order(), false);
    assert($download instanceof Run);
    $this->get("/runs/{$download->id}/download")->assertForbidden();
    $this->get($this->desk->url)->assertDontSee('Download');
});

it('tells a requester what came of their request, and no paths, stores, addresses or counts of others', function (): void {
    $run = ($this->ran)();
    $this->actingAs($this->desk->requester)->get($this->desk->url)->assertOk()
        ->assertSee('came back, and all of it was found right')->assertSee('Is it right?');
    ($this->nothing)(($this->pages)($run));
    $workload = "/workloads/{$this->desk->request->workload_id}";
    $pages = [
        '/estate', '/stores', '/proofs', $workload, "$workload/care", "/runs/{$run->id}", "/runs/{$run->id}/proof",
        '/sets/'.$this->desk->set(0)->id,
    ];
    foreach ($pages as $page) {
        $this->get($page)->assertForbidden();
    }
    $this->get('/')->assertDontSee('href="/estate"', false)->assertDontSee('Running now');
});

it('lists runs by the policy of each run', function (): void {
    $run = ($this->ran)();
    $this->actingAs($this->limited)->get('/proofs')->assertOk()->assertDontSee("/runs/{$run->id}");
    $this->get("/runs/{$run->id}")->assertForbidden();
    $this->actingAs($this->desk->operator)->get('/proofs')->assertSee("/runs/{$run->id}");
});

it('lets a limited operator name only targets of what they see, on the page', function (): void {
    $request = $this->desk->request;
    $request->update(['workload_id' => $this->mine->id]);
    $host = Host::query()->create(['name' => 'crew', 'kind' => 'folder', 'folder' => $this->desk->live, 'site' => 'boathouse']);
    $own = Host::query()
        ->create(['name' => 'piers', 'kind' => 'folder', 'folder' => dirname((string) $this->mine->source), 'site' => 'boathouse']);
    $server = DatabaseServer::query()->create(['name' => 'till', 'host' => '127.0.0.1', 'port' => 3306, 'user' => 'x', 'password' => 'x']);
    $store = Store::query()->where('name', 'adopted-crew')->sole();
    $store->update(['read_only' => false]);
    Desk::belongs($host, 'crew office');
    Desk::belongs($own, 'piers');
    $this->actingAs($this->limited);
    $to = fn (Host $host) => $this->post(
        "{$this->desk->url}/destination",
        ['destination' => 'host', 'host' => $host->id, 'folder' => 'x', 'conflict' => 'beside'],
    );
    $to($host)->assertSessionHasErrors('host');
    $to($own)->assertSessionHasNoErrors();
    $this->get("{$this->desk->url}?show=where")->assertSee('piers')->assertDontSee("value=\"{$host->id}\"", false);
    $this->get("{$this->desk->url}?show=where&host={$host->id}&look=tree")->assertDontSee('pay');
    $this->post("{$this->desk->url}/copies", ['from' => [$store->id => 'use']]);
    expect($request->refresh()->use_copies)->toBeNull();
    $this->post("/stores/{$store->name}/checks", ['mb' => 1, 'from' => '01:00', 'until' => '02:00'])->assertForbidden();
    $this->post("/workloads/{$this->mine->id}/sets", ['level' => 'full', 'store' => $store->id])->assertForbidden();
    $this->post("/workloads/{$this->mine->id}/schedule", ['times' => '30 1 * * *=full', 'store' => $store->id, 'zone' => 'UTC'])
        ->assertForbidden();
    $this->post("/workloads/{$this->mine->id}/rules", ['rule' => 'last=1', 'store' => $store->id])->assertForbidden();
    expect(Schedule::query()->count())->toBe(0);
    $data = Workload::query()->create(['name' => 'gates', 'kind' => 'database', 'group' => 'piers']);
    $request->update(['workload_id' => $data->id]);
    $this->post("{$this->desk->url}/database", ['set' => 'where', 'server' => 'till', 'schema' => 'x'])->assertSessionHasErrors('server');
    Desk::belongs($server, 'piers');
    $this->post("{$this->desk->url}/database", ['set' => 'where', 'server' => 'till', 'schema' => 'x'])->assertSessionHasNoErrors();
});

it('lets them move no cartridge of others', function (): void {
    $folder = $this->scratch()->path.'/tapes';
    $this->kaiseki('store-add', 'vault', $folder, '--kind=tape', '--cartridges=HV1,HV2', '--slots=2');
    $vault = Store::query()->where('name', 'vault')->sole();
    $this->actingAs($this->limited)->post('/stores/vault/cartridges/HV1', ['do' => 'out'])->assertForbidden();
    $this->get('/stores/vault/cartridges/HV1')->assertForbidden();
    TargetRight::give($vault, 'piers', Role::Operator, [Right::Read, Right::Write]);
    $this->post('/stores/vault/cartridges/HV1', ['do' => 'out'])->assertForbidden();
    TargetRight::give($vault, 'piers', Role::Operator, [Right::Tend]);
    $this->post('/stores/vault/cartridges/HV2', ['do' => 'out'])->assertSessionHasNoErrors()->assertRedirect();
    $run = ($this->ran)();
    CartridgeCall::query()->create([
        'store_id' => $vault->id, 'label' => 'HV1', 'run_id' => $run->id,
        'asked_at' => now(),
    ]);
    $this->get('/stores/vault/cartridges/HV1')->assertOk()->assertDontSee("/runs/{$run->id}");
});

it('asks again when the order is given, and when it is carried out', function (): void {
    $host = Host::query()
        ->create(['name' => 'piers', 'kind' => 'folder', 'folder' => $this->scratch()->path.'/hosts', 'site' => 'boathouse']);
    Desk::belongs($host, 'piers');
    $this->limited->update(['workload_groups' => ['piers', 'crew office']]);
    $this->desk->into('host', ['tree/pay'], 'beside', 'crew/files');
    $this->desk->say(fn (FilesSaid $said): FilesSaid => $said->with(host: $host->id));
    $order = $this->desk->order();
    $run = Approvals::order($this->desk->request->refresh(), $this->limited, $order, false);
    assert($run instanceof Run);
    $this->limited->update(['workload_groups' => ['piers']]);
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)->toBe('failed')
        ->and((string) $run->failure)->toContain('does not see')
        ->and(glob("{$this->desk->live}/*") ?: [])->toBe([]);
    $this->desk->request->update(['state' => 'open']);
    Desk::belongs(Store::query()->where('name', 'adopted-crew')->sole(), 'piers', 'crew office');
    expect(fn () => Approvals::order($this->desk->request->refresh(), $this->limited->refresh(), $this->desk->order(), false))
        ->toThrow(CannotOrder::class, 'not yours');
    $this->limited->update(['workload_groups' => null, 'locked_at' => now()]);
    $locked = Approvals::order($this->desk->request->refresh(), $this->limited->refresh(), $this->desk->order(), false);
    (new CarryOutRun($locked->id))->handle();
    expect((string) $locked->refresh()->failure)->toContain('is locked');
});

it('tells whose a folder is by where it leads', function (): void {
    symlink($this->desk->live, $this->scratch()->path.'/alias');
    $whose = fn (string $folder): array => array_map(fn (Workload $one): string => $one->name, TouchedFolder::originals($folder));
    expect($whose("{$this->scratch()->path}/alias"))->toBe(['crew'])
        ->and($whose($this->desk->live.'/sub'))->toBe(['crew'])
        ->and($whose(dirname($this->desk->live)))->toBe(['crew'])
        ->and($whose((string) $this->mine->source))->toBe(['piers-files']);
});

it('asks the right on a host also where an order names a folder that lies within it', function (): void {
    $host = Host::query()->create(['name' => 'wide', 'kind' => 'folder', 'folder' => dirname($this->desk->live), 'site' => 'boathouse']);
    Desk::belongs($host, 'piers');
    $crew = $this->desk->person(Role::Operator, ['crew office']);
    $this->desk->into('own-place', ['tree/pay']);
    expect(fn () => Approvals::order($this->desk->request->refresh(), $crew, $this->desk->order(), false))
        ->toThrow(CannotOrder::class, 'You may not write to the host wide');
    Desk::belongs($host, 'piers', 'crew office');
    expect(Approvals::order($this->desk->request->refresh(), $crew, $this->desk->order(), false))->toBeInstanceOf(Run::class);
});

it('reads from no store from which the person may not, and says what to do', function (): void {
    $crew = $this->desk->person(Role::Operator, ['crew office']);
    $store = Store::query()->where('name', 'adopted-crew')->sole();
    TargetRight::give($store, 'crew office', Role::Operator, [Right::Write, Right::Tend]);
    $this->desk->into('new-folder', ['tree/pay']);
    expect(fn () => Approvals::order($this->desk->request->refresh(), $crew, $this->desk->order(), false))
        ->toThrow(CannotOrder::class, 'You may not read from adopted-crew');
    $this->actingAs($crew)->post("{$this->desk->url}/copies", ['from' => [$store->id => 'use']]);
    expect($this->desk->request->refresh()->use_copies)->toBeNull();
    $this->post("{$this->desk->url}/copies", ['from' => [$store->id => 'avoid']]); // needs no right
    expect($this->desk->request->refresh()->avoid_copies)->toBe(['adopted-crew']);
});

it('shows nothing of the workload that a request was about before', function (): void {
    $run = ($this->ran)();
    $this->desk->into('own-place', ['tree/pay'], 'replace-all', null);
    $this->desk->request->update(['state' => 'open']);
    $this->desk->say(fn (FilesSaid $said): FilesSaid => $said->with(folder: 'salaries-folder'));
    $both = $this->desk->person(Role::Operator, ['crew office', 'piers']);
    $this->actingAs($both)->post("{$this->desk->url}/workload", ['workload' => $this->mine->id])->assertRedirect();
    $this->actingAs($this->limited)->get("{$this->desk->url}?show=proof")->assertOk()->assertSee('Nothing was run yet')
        ->assertDontSee("Run {$run->id}")->assertDontSee('tree/pay');
    foreach (['when', 'what', 'where', 'how', 'run'] as $picker) {
        expect(
            (string) $this->get("{$this->desk->url}?show=$picker")->assertOk()->getContent(),
        )->not->toContain('salaries')->not->toContain('tree/pay')->not->toContain($this->desk->live);
    }
    $this->actingAs($this->desk->requester)->get($this->desk->url)->assertOk();
    $this->desk->requester->update(['workload_groups' => ['piers']]);
    $this->actingAs($this->desk->requester)->get($this->desk->url)->assertDontSee('came back, and');
});
