<?php

declare(strict_types=1);

use App\Kinds\Items\Order\ItemsSheet;
use App\Models\Approval;
use App\Models\Duty;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Orders\CannotOrder;
use App\Runs\RunRefusal;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Mail\Message;
use Kaiseki\Core\Proof\SignedProof;
use Tests\Support\Desk;

/* A search on behalf of somebody's lawyer: over all points, by two people, sealed. */

beforeEach(function (): void {
    $scratch = $this->scratch();
    $this->letters = [];
    foreach (['=cmd|calc', 'the hull', 'the hull, again', 'lunch'] as $number => $subject) {
        $from = $number === 3 ? 'ben@x.example' : 'claims@mutual.example';
        $letter = "From: Mutual <$from>\r\nTo: ada@x.example\r\nSubject: $subject\r\nMessage-ID: <$number@x>\r\n\r\nhello\r\n";
        $this->letters[$number] = $letter;
        $scratch->file("mail/ada/Maildir/cur/179000000$number.M1.h:2,S", $letter);
    }
    $this->told(0, 'protect', 'post', "--mail={$scratch->path}/mail", '--level=full');
    unlink("{$scratch->path}/mail/ada/Maildir/cur/1790000001.M1.h:2,S"); // thrown away before the point in hand
    sleep(1);
    $this->told(0, 'protect', 'post', '--level=incr');
    $workload = Workload::query()->sole();
    $workload->update(['group' => 'crew office']);
    Store::query()->get()->each(fn (Store $store) => Desk::belongs($store, 'crew office'));
    $this->operator = $this->person(Role::Operator);
    $this->operator->update(['duties' => [Duty::Law->value]]);
    $this->request = RecoveryRequest::query()->create([
        'workload_id' => $workload->id, 'requester_id' => $this->person(Role::Requester)->id, 'summary' => 'Hull damage, for the lawyer',
        'reason' => 'A court asks', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $this->url = "/requests/{$this->request->id}";
    $this->actingAs($this->operator);
    // Words stand in an index that sees committed rows only: numbers and moments are what is asked for here.
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'found', 'q' => 'mailbox:ada size<10M', 'ever' => '1'])
        ->assertSessionHasNoErrors();
    $this->post("{$this->url}/items", ['settle' => 'where', 'destination' => 'files', 'form' => 'bag'])->assertSessionHasNoErrors();
});

it('waits for a second person, whatever it is of, and leaves its words in the trail', function (): void {
    $sheet = new ItemsSheet($this->request->refresh());
    expect($sheet->blockers())->toBe([])->and($sheet->needsApproval())->toBeTrue()
        ->and($sheet->sentence('UTC'))->toContain('at any point')->toContain('a sealed bag for the law');
    $this->get("{$this->url}?show=run")->assertOk()->assertSee('What goes to the law waits for a second person')
        ->assertDontSee('it cannot wait');
    expect(Approvals::order($this->request, $this->operator, $sheet->fingerprint(), false))->toBeInstanceOf(Approval::class)
        ->and(Run::query()->count())->toBe(0)
        ->and(TrailEntry::query()->where('what', 'like', 'Picked was what "mailbox:ada size%at any point.')->count())->toBe(1)
        ->and($sheet->hasHandSheet())->toBeFalse();
    $terminal = $this->kaiseki(
        'restore', 'post', '--at=2030-01-01T00:00:00Z', '--query=mailbox:ada', '--ever', '--as=bag', "--to={$this->scratch()->path}/bag",
        '--json',
    );
    expect($terminal->text)->toContain('takes two people')->and($terminal->code)->not->toBe(0);
});

it('brings originals, also of what was thrown away since, with a list, manifests and a seal', function (): void {
    $sheet = new ItemsSheet($this->request->refresh());
    $plan = ['target' => rawurlencode($this->scratch()->path.'/bag')] + ($sheet->order?->toArray() ?? []);
    $run = Run::query()->create([
        'workload_id' => $this->request->workload_id, 'set_id' => $sheet->point?->id, 'request_id' => $this->request->id,
        'state' => 'queued',
        'user_id' => $this->operator->id, 'plan' => $plan, 'is_whole' => false,
    ]);
    App\Kinds\Kinds::of($run)->carrier()->carryOut($run);
    $bag = $this->scratch()->path.'/bag';
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)->and($run->outcome['right'])->toBeTrue()
        ->and($run->outcome['messages'])->toBe(4);
    $check = "cd $bag && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt && echo right";
    expect($this->scratch()->run('sh', '-c', $check))->toContain('right');
    $seal = SignedProof::parse((string) file_get_contents("$bag/seal.json"));
    $proof = SignedProof::parse((string) file_get_contents(App\Runs\RunFiles::proof($run)));
    expect($seal->isSound())->toBeTrue()
        ->and($seal->evidence['tagmanifest_sha256'])->toBe(hash_file('sha256', "$bag/tagmanifest-sha256.txt"))
        ->and($seal->evidence['matter'])->toBe('Hull damage, for the lawyer')
        ->and($proof->evidence['bag_tagmanifest_sha256'])->toBe($seal->evidence['tagmanifest_sha256']);
    // Each original is what it was, and the list says the same in both forms.
    $rows = array_map(fn (string $line): array => (array) json_decode($line, true), file("$bag/list.jsonl", FILE_IGNORE_NEW_LINES) ?: []);
    $found = array_map(fn (array $row): string => (string) file_get_contents("$bag/{$row['file']}"), $rows);
    expect($found)->toEqualCanonicalizing(array_values($this->letters));
    foreach ($rows as $row) {
        $bytes = (string) file_get_contents("$bag/{$row['file']}");
        expect($row['sha256'])->toBe(hash('sha256', $bytes))->and($row['identity_blake2b_256'])->toBe(bin2hex(Message::identityOf($bytes)));
    }
    $gone = array_values(array_filter($rows, fn (array $row): bool => $row['subject'] === 'the hull'))[0];
    expect($gone['last_seen_before'])->not->toBeNull();
    $csv = fopen("$bag/list.csv", 'rb');
    $cells = [];
    while ($csv !== false && ($row = fgetcsv($csv, escape: '')) !== false) {
        $cells[] = $row;
    }
    expect(array_column(array_slice($cells, 1), 0))->toEqualCanonicalizing(array_column($rows, 'file'))
        ->and(array_column($cells, 6))->toContain("'=cmd|calc");
    // A letter that somebody changes is found by the manifest, and a manifest by the seal.
    file_put_contents("$bag/{$rows[0]['file']}", 'x', FILE_APPEND);
    expect((new Symfony\Component\Process\Process(['sh', '-c', $check]))->run())->not->toBe(0);
});

it('takes two people who may search for the law: nobody else orders it, says yes to it, or goes around it', function (): void {
    $sheet = new ItemsSheet($this->request->refresh());
    $other = $this->person(Role::Operator);
    $this->actingAs($other)->get("{$this->url}?show=run")->assertOk()->assertSee('You may not search for the law')
        ->assertDontSee('id="confirm"', false);
    expect(fn () => Approvals::order($this->request, $other, $sheet->fingerprint(), false))
        ->toThrow(CannotOrder::class, 'You may not search for the law');
    expect(fn () => Approvals::override($this->request, $this->operator, $sheet->fingerprint(), 'it cannot wait any longer', false))
        ->toThrow(CannotOrder::class, 'takes two people');

    $approval = Approvals::order($this->request, $this->operator, $sheet->fingerprint(), false);
    expect($approval->duty)->toBe(Duty::Law);
    $approver = $this->person(Role::Approver);
    $yes = ['do' => 'approve', 'seen' => $approval->order];
    $this->actingAs($approver)->get("/approvals/{$approval->id}")->assertOk()->assertDontSee('Approve, and run it');
    $this->post("/approvals/{$approval->id}", $yes)->assertForbidden();
    expect(fn () => Approvals::decide($approval, $approver, $approval->order, null))->toThrow(CannotOrder::class, 'may search for the law');
    $approver->update(['duties' => [Duty::Law->value]]);
    $this->actingAs($approver->refresh())->get("/approvals/{$approval->id}")->assertSee('Approve, and run it');
    $this->post("/approvals/{$approval->id}", $yes)->assertSessionHasNoErrors()->assertRedirect();
    $run = Run::query()->sole();

    // What was theirs when they ordered it may be theirs no more when it begins.
    $this->operator->update(['duties' => []]);
    expect(fn () => RunRefusal::check($run->refresh()))->toThrow(UnableToRestore::class, 'You may not search for the law');
});

it('is an administrator who says who may, on the page of the person or at a terminal', function (): void {
    $administrator = $this->person(Role::Administrator);
    $this->actingAs($administrator);
    $said = ['role' => 'operator', 'sees' => 'all', 'duties' => ['law']];
    $other = $this->person(Role::Operator);
    $this->post("/people/{$other->id}", ['duties' => ['nothing of the kind']] + $said)->assertSessionHasErrors('duties.0');
    $this->post("/people/{$other->id}", $said)->assertSessionHasNoErrors();
    expect($other->refresh()->hasDuty(Duty::Law))->toBeTrue()
        ->and(TrailEntry::query()->where('what', "Of {$other->email} changed: duties. Their sessions were ended.")->count())->toBe(1);
    $this->get('/people')->assertSee('may search for the law');
    $this->artisan('kaiseki:user', ['email' => $other->email, '--duty' => ['cook']])->expectsOutputToContain('is one of law')
        ->assertExitCode(2);
    $this->artisan('kaiseki:user', ['email' => $other->email, '--no-duty' => true])->assertExitCode(0);
    expect($other->refresh()->hasDuty(Duty::Law))->toBeFalse();
    $this->artisan('kaiseki:user', ['email' => $other->email, '--duty' => ['law'], '--role' => 'auditor'])->assertExitCode(0);
    expect($other->refresh()->duties)->toBe(['law'])->and($other->hasDuty(Duty::Law))->toBeFalse(); // no more than who asks only
});
