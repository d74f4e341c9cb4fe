<?php

declare(strict_types=1);

use App\Kinds\Items\Order\ItemSelection;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Workload;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\Message;
use Kaiseki\StandIns\FileHost;
use Tests\Support\MailSamples;

/* What lies in a folder that is left out of the sets from some night on is not gone: nobody threw it away, and nothing says so. */

beforeEach(function (): void {
    $this->host = new FileHost($this->scratch()->path.'/host');
    $samples = new MailSamples(23);
    $this->keys = [];
    $there = ['kept' => 'ada/cur', 'junk' => 'ada/.Junk/cur', 'thrown' => 'ada/cur', 'junk thrown' => 'ada/.Junk/cur'];
    foreach ($there as $what => $folder) {
        $message = $samples->message();
        $this->scratch()->file("host/files/$folder/$what:2,S", $message);
        $this->keys[$what] = substr(bin2hex(Message::identityOf($message)), 0, 16);
    }
    foreach (['new', 'tmp', '.Junk/new', '.Junk/tmp'] as $folder) {
        $this->scratch()->folder("host/files/ada/$folder");
    }
    $this->night = function (int $day, string ...$more): BackupSet {
        $this->host->setClock(Instant::parse("2026-11-{$day}T02:10:00Z"));
        $this->told(0, 'protect', 'post', ...$more);

        return BackupSet::query()->orderByDesc('instant')->firstOrFail();
    };
    $this->first = ($this->night)(12, "--mail={$this->host->root()}", '--level=full');
    unlink("{$this->host->root()}/ada/.Junk/cur/junk thrown:2,S");
    ($this->night)(13);
    unlink("{$this->host->root()}/ada/cur/thrown:2,S");
    $this->told(0, 'exclude', 'post', '.Junk', '--because=comes again');
    $this->last = ($this->night)(14);
    $this->named = fn (array $items): array => array_values(array_map(
        fn (string $key): string => (string) array_search($key, $this->keys, true), $items,
    ));
});

it('finds what is gone, and not what is left out', function (): void {
    $found = fn (string ...$more): array => ($this->named)(array_column($this->told(0, 'find', 'post', ...$more)['items'], 'id'));
    expect($found('is:gone'))->toEqualCanonicalizing(['thrown', 'junk thrown'])
        ->and($found('kind:message -is:gone'))->toEqualCanonicalizing(['kept', 'junk'])
        ->and($found('folder:Junk', "--at={$this->last->captured_at->toIso8601ZuluString()}"))->toBe([]);
    $workload = Workload::query()->sole();
    $vanished = fn (string $by): array => ($this->named)(array_map(
        fn ($one): string => $one->item->key(),
        (new ItemSelection(mailbox: 'ada', vanishedBy: $by))->at($workload, $this->first),
    ));
    expect($vanished('2026-11-13T12:00:00Z'))->toBe(['junk thrown'])
        ->and($vanished('2026-11-14T12:00:00Z'))->toEqualCanonicalizing(['thrown', 'junk thrown']);
    // In again, and thrown away then: that is gone.
    $this->told(0, 'exclude', 'post', '.Junk', '--remove');
    ($this->night)(15);
    expect($found('is:gone'))->toEqualCanonicalizing(['thrown', 'junk thrown']);
    unlink("{$this->host->root()}/ada/.Junk/cur/junk:2,S");
    ($this->night)(16);
    expect($found('is:gone'))->toEqualCanonicalizing(['thrown', 'junk thrown', 'junk'])
        ->and($vanished('2026-11-16T12:00:00Z'))->toEqualCanonicalizing(['thrown', 'junk thrown', 'junk']);
});

it('says so on the page, and of a tree of files what vanished without it', function (): void {
    $operator = $this->person(Role::Operator);
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->sole()->id, 'requester_id' => $operator->id, 'summary' => 'x', 'reason' => 'y',
        'wanted_at' => '2026-11-20 12:00:00', 'due_at' => now()->addHour(),
    ]);
    $this->actingAs($operator)->get("/requests/{$request->id}?show=what&ever=1&q=".urlencode('folder:Junk'))
        ->assertOk()->assertSee('left out since')->assertSee('gone since')->assertSee('Left out of this point on purpose');
    expect(App\Kinds\Files\Order\ChangedPaths::vanished($this->first, $this->first->instant))
        ->toBe(['ada/.Junk/cur/junk thrown:2,S', 'ada/cur/thrown:2,S']);
});
