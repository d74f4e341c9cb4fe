<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Jobs\PutBackRun;
use App\Kinds\Files\Order\Destination;
use App\Kinds\Files\Order\Worksheet;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Kaiseki\StandIns\SorrelSoundChartRoom;
use Tests\Support\Archives;
use Tests\Support\Desk;
use Tests\Support\Scratch;

// getfacl(1) lists what is there; GNU tar takes the same sets apart.

beforeEach(function (): void {
    $this->disk = new Scratch('/var/tmp'); // not every file system in memory has lists
    $this->host = new FileHost($this->disk->at('chart-room'));
    $this->library = $this->host->root();
    $first = new DateTimeImmutable('2026-11-02 00:00');
    $this->day = fn (int $number): DateTimeImmutable => $first->modify("+$number days");
    $this->host->setClock(Instant::of(($this->day)(0)->modify('02:10')));
    $this->life = new SorrelSoundChartRoom($this->library);
    $this->life->begin($first);
    $this->sets = [$this->told(0, 'protect', 'chart-room', "--source={$this->library}", '--level=full')['set']];
    $this->night = function (int $number, int $before): void {
        $this->life->live(($this->day)($number)->modify('-1 day'), $before);
        $this->host->setClock(Instant::of(($this->day)($number)->modify('02:10')));
        $this->sets[] = $this->told(0, 'protect', 'chart-room', '--level=incr')['set'];
    };
    $list = 'cd "$1" && find . -mindepth 1 ! -path "./.kaiseki-*" | LC_ALL=C sort | getfacl --numeric -P -';
    $this->listed = fn (?string $at = null): string => $this->disk->run('sh', '-c', $list, 'sh', $at ?? $this->library);
    $this->contents = fn (): string => $this->disk->run(
        'find', $this->library, '-type', 'f', '-printf', '%P %T@ ', '-exec', 'b2sum', '{}', ';',
    );
    $this->restore = fn (string ...$more): array => $this->told(0, 'restore', 'chart-room', '--path=/', ...$more);
});

afterEach(function (): void {
    $this->disk->remove();
    unset($this->day, $this->night, $this->listed, $this->contents, $this->restore);
});

it('keeps lists in its sets, as GNU tar gives them back, and in the catalog', function (): void {
    ($this->night)(1, 9);
    $then = ($this->listed)();
    $out = $this->disk->folder('out');
    foreach ($this->sets as $set) {
        $archive = $this->disk->run('sh', '-c', 'find "$1" -name "$2.tar.gz"', 'sh', App\Instance::folder('stores'), $set);
        $this->disk->run('tar', '--acls', '--listed-incremental=/dev/null', '--same-permissions', '-xzf', trim($archive), '-C', $out);
    }
    expect(($this->listed)($out))->toBe($then);
    $plan = 'Passage plans/Knot, winter.md';
    $point = App\Models\BackupSet::query()->where('name', $this->sets[1])->firstOrFail();
    expect(Version::unpack((string) (new CatalogReader)->at($point, $plan))->access)
        ->toBe('user::rw-,group::r--,group:operator:rw-,group:staff:r--,mask::rw-,other::---');
});

it('knows a version by its list alone, and gives all of it back with the things', function (): void {
    $path = "{$this->library}/Charts/Gull Ness by night.md";
    $this->disk->run('setfacl', '--modify', 'user:backup:r--', $path);
    ($this->night)(1, 0);
    $then = ($this->listed)();
    $to = $this->disk->at('elsewhere');
    $run = ($this->restore)('--at=2026-11-30T00:00:00Z', "--to=$to");
    expect($run['differences'])->toBe([])->and($run['left_out'])->toBe([])->and(($this->listed)($to))->toBe($then);
    $workload = Workload::query()->sole();
    $versions = (new CatalogReader)->versionsOf($workload, 'Charts/Gull Ness by night.md');
    expect($versions)->toHaveCount(2)->and($versions[1]->version->access)->toContain('user:backup:r--')
        ->and($versions[0]->version->digest)->toBe($versions[1]->version->digest);
    $this->actingAs($this->person(Role::Operator))
        ->get("/workloads/{$workload->id}/versions?path=Charts/Gull%20Ness%20by%20night.md")
        ->assertSee('rw-rw-r--+');
});

it('brings permissions back alone, and puts them back', function (): void {
    $then = ($this->listed)();
    ($this->night)(1, SorrelSoundChartRoom::FLATTENED_BEFORE);
    [$flattened, $contents] = [($this->listed)(), ($this->contents)()];
    expect($flattened)->not->toBe($then);
    $order = ['--point='.$this->sets[0], '--in-place', '--only-permissions'];
    $preview = $this->told(0, 'preview', 'chart-room', '--path=/', ...$order);
    expect($preview['counts']['permissions']['entries'])->toBe(11)->and($preview['counts']['added']['entries'])->toBe(0)
        ->and($preview['bytes_needed'])->toBe(0);
    $line = array_values(array_filter($preview['entries'], fn (array $line): bool => $line['path'] === '/Passage plans'))[0];
    expect($line['because'])->toContain('rwxrwxrwx becomes rwxrwx---')->toContain('group:staff:r-x comes');
    $run = ($this->restore)(...$order);
    expect(array_column($run['checks'], 'result'))->toBe(['passed', 'passed'])->and($run['left_out'])->toBe([]);
    $back = fn (string $listing): string => (string) preg_replace('~# file: \.library.*?\n\n~s', '', $listing);
    expect($back(($this->listed)()))->toBe($back($then))->and(($this->contents)())->toBe($contents);
    $proof = $this->told(0, 'proof', (string) $run['run'])['evidence'];
    expect($proof['permissions_only'])->toBeTrue()->and($proof['read'])->toBe([])
        ->and($proof['order'])->toContain('the permissions of Mon 2 Nov 02:10');
    expect($this->told(0, 'put-back', (string) $run['run'])['returned'])->toBe(11)
        ->and(($this->listed)())->toBe($flattened)->and(($this->contents)())->toBe($contents);
});

it('refuses what means nothing beside it, and a place that is not there', function (string ...$more): void {
    $answer = $this->kaiseki('restore', 'chart-room', '--path=/', '--at=2026-11-30T00:00:00Z', '--only-permissions', '--json', ...$more);
    expect($answer->code)->not->toBe(0)->and($answer->text)->toMatch('/means nothing with --only-permissions|does not exist/');
})->with([
    'flat' => ['--in-place', '--flat'],
    'renamed' => ['--in-place', '--rename=other'],
    'across points' => ['--in-place', '--across-points'],
    'commands' => ['--in-place', '--after=["true"]'],
    'nowhere' => ['--to=/var/tmp/kaiseki-nothing-stands-here'],
]);

it('is settled on the worksheet, waits for the second person where that is marked, and is put back there', function (): void {
    $then = ($this->listed)();
    ($this->night)(1, SorrelSoundChartRoom::FLATTENED_BEFORE);
    $flattened = ($this->listed)();
    $workload = Workload::query()->sole();
    $workload->update(['group' => 'bridge', 'needs_approval' => true]);
    [$operator, $approver] = [$this->person(Role::Operator), $this->person(Role::Approver)];
    Desk::belongs(App\Models\Store::query()->sole(), 'bridge');
    $request = RecoveryRequest::query()->create([
        'workload_id' => $workload->id, 'requester_id' => $this->person(Role::Requester)->id, 'summary' => 'Everybody reads the minutes',
        'reason' => 'They should not', 'wanted_at' => '2026-11-02 12:00:00', 'due_at' => now()->addHour(),
        'lost' => '/Minutes of the masters',
    ]);
    $page = "/requests/{$request->id}";
    $this->actingAs($operator)->get("$page?show=how")->assertSee('only its permissions');
    $this->post("$page/how", ['layout' => 'tree', 'comes' => 'permissions'])->assertRedirect();
    expect(Destination::of($request->refresh())->kind)->toBe('own-place');
    $this->get("$page?show=preview")
        ->assertOk()
        ->assertSee('5 things')
        ->assertSee('rwxrwxrwx becomes rwxr-x---')
        ->assertSee('group:staff:r-x comes')
        ->assertSee('No archive needs to be read.')
        ->assertDontSee('are written');
    expect($this->get("$page/hand-sheet")->assertOk()->streamedContent())->toContain("give './Minutes of the masters'");
    $order = fn (): string => (new Worksheet($request->refresh()))->fingerprint();
    $this->post("$page/run", ['order' => $order()])->assertRedirect("$page?show=run");
    expect(Run::query()->count())->toBe(0);
    $asked = '/approvals/'.Approval::query()->sole()->id;
    $this->actingAs($approver)->get($asked)->assertSee('given the permissions of then')->assertSee('group:staff:r--');
    $this->post($asked, Desk::yes($asked))->assertRedirect($asked);
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)->and($run->outcome['right'])->toBeTrue();
    $minutes = fn (string $listing): array => array_values(array_filter(
        explode("\n\n", $listing),
        fn (string $block): bool => str_starts_with($block, '# file: ./Minutes') || str_starts_with($block, '# file: Minutes'),
    ));
    expect($minutes(($this->listed)()))->toBe($minutes($then))->toHaveCount(5);
    $this->actingAs($operator);
    $this->get("/runs/{$run->id}")->assertSee('the permissions of 5 things');
    $workload->update(['needs_approval' => false]);
    $this->post("/runs/{$run->id}/put-back")->assertRedirect();
    (new PutBackRun($run->id, false))->handle();
    $this->get("$page?show=proof")->assertSee('5 things got back the permissions of before');
    expect(($this->listed)())->toBe($flattened);
});

it('says what stands in the way where nothing would stand to be given them', function (): void {
    $desk = new Desk($this, fn ($a) => $a->put('notes', 'one'), fn ($a) => $a->put('notes', 'two'));
    $desk->into('new-folder', ['tree/notes']);
    $desk->say(fn ($said) => $said->with(permissionsOnly: true));
    $this->actingAs($desk->operator)->get($desk->url)->assertSee('Only permissions come back: say under Where');
    $this->post("{$desk->url}/how", ['layout' => 'tree', 'comes' => 'everything'])->assertSessionHasErrors('comes');
});

it('shows what its library knows of a document, and takes that along', function (): void {
    foreach (range(1, 6) as $number) {
        ($this->night)($number, 9);
    }
    $point = App\Models\BackupSet::query()->where('name', $this->sets[6])->firstOrFail();
    $kept = glob("{$this->library}/.library/versions/*/*.md/1.md") ?: [];
    $document = dirname(substr($kept[0], strlen("{$this->library}/.library/versions/")));
    $record = json_decode((string) file_get_contents("{$this->library}/.library/documents/$document.json"), true);
    $operator = $this->person(Role::Operator);
    $this->actingAs($operator)
        ->get("/sets/{$point->id}/look?path=".rawurlencode($document))
        ->assertOk()
        ->assertSee('In its library')
        ->assertSee("by {$record['author']}, version {$record['version']}")
        ->assertSee("/sets/{$point->id}/look?path=".rawurlencode(".library/versions/$document/1.md"), false);
    $this->get("/sets/{$point->id}/look?path=.library%2Fviews.json")->assertOk()->assertDontSee('In its library');
    $workload = Workload::query()->sole();
    $workload->update(['group' => 'bridge']);
    Desk::belongs(App\Models\Store::query()->sole(), 'bridge');
    $request = RecoveryRequest::query()->create([
        'workload_id' => $workload->id, 'requester_id' => $operator->id, 'summary' => 'x', 'reason' => 'x',
        'wanted_at' => '2026-11-20 12:00:00', 'due_at' => now()->addHour(),
    ]);
    $this->post("/requests/{$request->id}/selection", ['path' => rawurlencode($document), 'do' => 'only']);
    $this->get("/requests/{$request->id}?show=what")->assertSee('The library keeps a record of');
    $this->post("/requests/{$request->id}/selection", ['path' => '', 'do' => 'with-record']);
    expect((new Worksheet($request->refresh()))->selection)
        ->toBe([$document, ".library/documents/$document.json", ".library/versions/$document"]);
    $this->get("/requests/{$request->id}?show=what")->assertDontSee('The library keeps a record of');
});

it('leaves a list where it stands when the sets do not say whether there was one', function (): void {
    $archives = (new Archives($this->scratch()))->put('plan', 'one')->put('other', 'two');
    chmod("{$archives->source}/plan", 0640);
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree', '--kind=files');
    $to = $this->disk->at('live');
    $this->told(0, 'restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$to");
    $this->disk->run('setfacl', '--modify', 'user:backup:r--', "$to/tree/plan");
    chmod("$to/tree/other", 0666);
    $order = ['--at=2026-11-01T00:00:00Z', '--path=/', "--to=$to", '--only-permissions'];
    $preview = $this->told(0, 'preview', 'tree', ...$order);
    expect($preview['warnings'])->toBe(['"tree/plan" keeps its access list: the sets of this point do not say whether it had one.']);
    $run = $this->told(0, 'restore', 'tree', ...$order);
    clearstatcache(true);
    expect($this->disk->run('getfacl', '-c', "$to/tree/plan"))->toContain('user:backup:r--')
        ->and(fileperms("$to/tree/other"))->toBe(fileperms("{$archives->source}/other"))
        ->and(array_column($run['left_out'], 'because', 'path'))
        ->toBe(['tree/plan' => 'it keeps its access list: the sets of this point do not say whether it had one']);
    // Of a full that has some list it is known that what has none in it had none.
    $this->scratch()->run('setfacl', '--modify', 'user:mail:r--', "{$archives->source}/other");
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree', '--kind=files');
    $this->told(0, 'restore', 'tree', ...$order);
    expect($this->disk->run('getfacl', '-c', "$to/tree/plan"))->not->toContain('backup')
        ->and($this->disk->run('getfacl', '-c', "$to/tree/other"))->toContain('user:mail:r--');
});
