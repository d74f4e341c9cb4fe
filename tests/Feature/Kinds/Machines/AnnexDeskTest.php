<?php

declare(strict_types=1);

use App\Instance;
use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Annex\AnnexChange;
use App\Kinds\Machines\Annex\DoInside;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\LookAtHypervisors;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\View\WaitingThing;
use App\View\WaitingThings;
use Illuminate\Support\Facades\Queue;
use Kaiseki\StandIns\Hypervisor\KeptAnnex;
use Symfony\Component\Process\Process;
use Tests\Support\CardAtWork;
use Tests\Support\Frames;
use Tests\Support\HelpersAtWork;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/** Machines in an annex, on the pages. */
beforeEach(function (): void {
    array_map(unlink(...), [...glob(Instance::folder('serving').'/*') ?: [], ...glob(Instance::folder('annexes').'/*') ?: []]);
    $this->helpers = new HelpersAtWork;
    $this->host = new HypervisorAtWork;
    Machine::taken($this);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    $up = ['restore', 'berth', '--at=2026-10-02T12:00:00Z', '--stand-up', '--annex', '--on=ketch', '--memory=64'];
    $this->run = Run::query()->findOrFail($this->told(0, ...$up)['run']);
    $this->page = "/runs/{$this->run->id}";
    $this->operator = $this->person(Role::Operator);
    $this->actingAs($this->operator);
});

afterEach(function (): void {
    $this->host->remove();
    $this->helpers->end();
});

it('shows what it wanted of others, gives the packets away, and lists what was done in it', function (): void {
    $what = fn (WaitingThing $thing): string => $thing->what;
    expect(implode(' ', array_map($what, WaitingThings::of($this->operator))))->toContain('stands in an annex: release it, or drop it');
    $this->get($this->page)->assertOk()->assertSee('Nothing that it sent wanted out')->assertSee('once it is released out of its annex');
    $host = HypervisorHost::query()->value('id');
    $this->get('/estate')->assertOk()->assertSee('runs off its sets, in an annex');
    $this->get("/hypervisors/$host/machines/berth.standing-run-{$this->run->id}")->assertOk()->assertSee('release it, or drop it');
    expect($this->told(0, 'standing')['standing'][0]['annex'])->toBe("annex-run-{$this->run->id}");
    $card = new CardAtWork(KeptAnnex::of($this->host->folder, "annex-run-{$this->run->id}"), 'tern', '02:00:00:00:00:01');
    $name = Frames::udp(4000, 53, Frames::question('rates.example'));
    $card->send(Frames::ipv4('52:55:0a:00:02:02', $card->mac, 17, '10.0.2.20', '10.0.2.3', $name));
    for ($i = 0; $i < 100 && (Annex::ofRun($this->run)->wanted ?? []) === []; $i++) {
        (new LookAtHypervisors)->handle();
        usleep(20_000);
    }
    $this->get($this->page)->assertOk()->assertSee('UDP 10.0.2.3 port 53, for rates.example')->assertSee('1 packet.');
    $record = $this->get("{$this->page}/annex.pcapng")->assertOk()->baseResponse->getFile()->getPathname();
    expect((new Process(['tcpdump', '-nn', '-r', $record]))->mustRun()->getOutput())->toContain('A? rates.example.')
        ->and(TrailEntry::query()->where('what', 'like', 'Took the record of the annex%')->count())->toBe(1);

    // Hostile words stay words; what was not said is asked for.
    $this->post("{$this->page}/inside", ['sort' => 'run', 'what' => 'hostname'])->assertSessionHasErrors('why');
    $this->post("{$this->page}/inside", ['sort' => 'fly', 'what' => 'x', 'why' => 'y'])->assertSessionHasErrors('sort');
    Queue::fake();
    $said = ['sort' => 'run', 'what' => 'echo "<script>alert(1)</script>"', 'why' => 'to see what <b>it</b> says'];
    $this->post("{$this->page}/inside", $said)->assertSessionHasNoErrors();
    $this->get($this->page)->assertOk()->assertSee('at work')->assertSee('hx-trigger="every 1s"', false)
        ->assertDontSee('<script>alert', false);
    $change = AnnexChange::query()->firstOrFail();
    Queue::assertPushed(DoInside::class, fn (DoInside $job): bool => $job->change === $change->id);
    (new DoInside($change->id))->handle();
    expect([$change->refresh()->what, $change->state, $change->user_id])
        ->toBe([['sh', '-c', $said['what']], AnnexChange::FAILED, $this->operator->id]);
    $this->get($this->page)->assertOk()->assertSee('no agent runs in it')->assertSee($said['why'])->assertDontSee('every 1s');
});

it('is released from its page, and not before what has its name gives way', function (): void {
    $hypervisor = $this->host->open();
    $this->host->machine('berth', system: $this->scratch()->file('empty', str_repeat("\0", 512)));
    (new LookAtHypervisors)->handle();
    $this->get($this->page)->assertOk()->assertSee('End the machine berth that is there');
    $this->post("{$this->page}/release")->assertSessionHasErrors('release');

    // That of somebody else who must be asked is not set aside from here.
    $workload = Workload::query()->where('name', 'berth')->firstOrFail();
    HypervisorHost::query()->firstOrFail()->holds($workload, 'berth');
    $workload->update(['needs_approval' => true]);
    $this->post("{$this->page}/release", ['set_aside' => '1', 'unscanned' => '1'])->assertSessionHasErrors('release');
    $this->get($this->page)->assertSee('waits for a second person');
    $workload->update(['needs_approval' => false]);

    $hypervisor->stop("berth.standing-run-{$this->run->id}", true);
    $this->post("{$this->page}/release", ['set_aside' => '1', 'unscanned' => '1'])->assertSessionHasNoErrors();
    $this->get($this->page)->assertSee('releases it');
    $this->post("{$this->page}/release", ['set_aside' => '1', 'unscanned' => '1'])->assertSessionHasErrors('release');
    $release = Run::query()->orderByDesc('id')->firstOrFail();
    (new CarryOutRun($release->id))->handle();
    expect([$release->refresh()->state, $release->failure, $release->outcome['right'] ?? null])->toBe(['done', null, true])
        ->and($hypervisor->room()->annexes)->toBe([]);
    $this->get($release->page())->assertOk()->assertSee('out of its annex');
    $this->get($this->page)->assertOk()->assertSee('It was released out of it')->assertSee('Bring it to its own storage');
    $this->actingAs($this->person(Role::Auditor))->get("{$this->page}/annex.pcapng")->assertForbidden();
});
