<?php

declare(strict_types=1);

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Models\Role;
use App\Models\Store;
use App\Models\TargetRight;
use App\Models\TrailEntry;
use App\Models\Workload;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $image = $this->scratch()->at('system.raw');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'raw', $image, '3M');
    $this->host->machine('kelp', system: $image, data: $image);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    $this->url = '/hypervisors/'.HypervisorHost::query()->value('id').'/machines/kelp';
    $this->actingAs($this->person(Role::Operator));
});

afterEach(fn () => $this->host->remove());

it('shows a machine, what protects each of its disks, and turns it on and off', function (): void {
    $this->get($this->url)->assertOk()->assertSee(['It is off', 'Nothing protects it', 'BIOS', '256 MiB', 'Nobody has looked at it yet']);
    $this->get("{$this->url}/screen")->assertNotFound();
    $this->get(str_replace('kelp', 'dulse', $this->url))->assertNotFound();
    $this->post(str_replace('kelp', 'dulse', $this->url).'/turn', ['turn' => 'start'])->assertNotFound();
    $this->post("{$this->url}/turn", ['turn' => 'over'])->assertSessionHasErrors('turn');

    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    $this->kaiseki('protect', 'kelp', '--machine=ketch:kelp', '--exclude-disk=data', '--level=full');
    $this->post("{$this->url}/turn", ['turn' => 'start'])->assertRedirect($this->url);
    $page = $this->get($this->url)->assertSee(['It runs since', 'It is the workload', 'left out by rule', 'No agent answers in it']);
    expect(preg_match_all('#href="/sets/\d+"#', (string) $page->getContent()))->toBe(1);
    $picture = $this->get("{$this->url}/screen")->assertOk()->assertHeader('Content-Type', 'image/png')->getContent();
    expect(getimagesizefromstring((string) $picture)[0])->toBeGreaterThan(300);
    $this->get('/estate')->assertSee($this->url);
    $this->get('/workloads/'.Workload::query()->value('id'))->assertSee($this->url);

    $this->post("{$this->url}/turn", ['turn' => 'cut'])->assertRedirect($this->url);
    $this->get($this->url)->assertSee('It is off');
    expect(TrailEntry::query()->orderByDesc('id')->limit(2)->pluck('what')->all())
        ->toBe(['kelp at ketch is to be ended at once.', 'kelp at ketch is to be started.']);
});

it('shows nothing of what a machine says but its characters, and keeps what was seen when the hypervisor is silent', function (): void {
    $this->post("{$this->url}/turn", ['turn' => 'start']);
    $line = glob("{$this->host->folder}/run/*.out")[0];
    file_put_contents($line, "\x1b[2J\x1b[31mlogin:\x1b[0m <script>alert(1)</script>\u{202e}\xff\r\nlast line\n", FILE_APPEND);
    $this->post("{$this->url}/look")->assertRedirect($this->url);
    $page = $this->get($this->url)->assertSee('login: &lt;script&gt;alert(1)&lt;/script&gt;', false)->assertSee('last line');
    expect((string) $page->getContent())->not->toContain("\u{202e}")->not->toContain("\x1b")->not->toContain("\xff");
    expect(TrailEntry::query()->orderByDesc('id')->value('what'))->toBe('Looked at the screen of kelp at ketch.');

    $this->host->end();
    $this->post("{$this->url}/look");
    $this->get($this->url)->assertSee(['ketch does not answer', 'last line']);
});

it('lets nobody look into or turn off a machine of a group that they do not see', function (): void {
    $host = HypervisorHost::query()->sole();
    $workload = Workload::query()->create(['name' => 'kelp', 'kind' => 'machine', 'group' => 'bridge']);
    $host->holds($workload, 'kelp');
    TargetRight::query()->create([
        'type' => 'hypervisor', 'target_id' => $host->id, 'group' => 'piers', 'role' => 'operator', 'may_read' => true, 'may_write' => true,
    ]);
    $this->actingAs($this->person(Role::Operator, ['piers']));
    $this->get($this->url)->assertOk()->assertDontSee('Look at it now')->assertDontSee('Start it')->assertSee('You may not look into');
    $this->post("{$this->url}/look")->assertForbidden();
    $this->post("{$this->url}/turn", ['turn' => 'start'])->assertForbidden();
    $workload->update(['group' => 'piers']);
    $this->post("{$this->url}/look")->assertRedirect($this->url);
    // Whoever may read there, but not write.
    TargetRight::query()->where('group', 'piers')->update(['may_write' => false]);
    $this->post("{$this->url}/turn", ['turn' => 'start'])->assertForbidden();
    foreach ([Role::Approver, Role::Auditor, Role::Administrator] as $role) {
        $this->actingAs($this->person($role));
        $this->post("{$this->url}/look")->assertForbidden();
    }
});
