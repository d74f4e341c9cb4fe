<?php

declare(strict_types=1);

use App\Kinds\Items\Order\ItemsSaid;
use App\Kinds\Items\Order\ItemsSheet;
use App\Kinds\Items\Server\MailServer;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Orders\Approvals;
use Illuminate\Support\Facades\DB;
use Tests\Support\Archives;
use Tests\Support\Desk;
use Tests\Support\MailSamples;

// The page of a request about mailboxes, on archives that were adopted: no mail server is there.

beforeEach(function (): void {
    $archives = new Archives($this->scratch());
    $samples = new MailSamples(51);
    $this->messages = array_map(fn (): string => $samples->message(), range(1, 12));
    foreach ($this->messages as $number => $message) {
        $folder = $number < 8 ? '' : '/.Sent';
        $archives->put("greta/Maildir$folder/cur/17900000$number.M$number.h:2,".($number % 2 === 0 ? 'S' : ''), $message);
    }
    $archives->dump('full');
    $archives->delete('greta/Maildir/cur/179000000.M0.h:2,S')->put('greta/Maildir/.Sent/cur/179000000.M0.h:2,SF', $this->messages[0]);
    $archives->delete('greta/Maildir/cur/179000001.M1.h:2,');
    $archives->dump('incr');
    $this->told(0, 'adopt', $archives->folder, '--as=post', '--kind=items');
    $this->workload = Workload::query()->sole();
    $this->workload->update(['group' => 'crew office']);
    Store::query()->get()->each(fn (Store $store) => Desk::belongs($store, 'crew office'));
    $this->operator = $this->person(Role::Operator);
    $this->request = RecoveryRequest::query()->create([
        'workload_id' => $this->workload->id, 'requester_id' => $this->person(Role::Requester)->id, 'summary' => 'A letter is gone',
        'reason' => 'Needed', 'wanted_at' => '2026-10-01 18:00:00', 'due_at' => now()->addHour(),
    ])->refresh();
    $this->url = "/requests/{$this->request->id}";
    $this->key = substr(bin2hex(Kaiseki\Core\Mail\Message::identityOf($this->messages[1])), 0, 16);
    $this->actingAs($this->operator);
});

it('shows mailboxes, folders and messages as they were at the point', function (): void {
    $this->get("{$this->url}?show=what")->assertOk()->assertSee('greta')->assertSee('INBOX')->assertSee('Sent');
    $page = $this->get("{$this->url}?show=what&mailbox=tree/greta&folder=INBOX")->assertOk();
    expect(substr_count($page->getContent(), 'data-row'))->toBe(8);
    // Moved and deleted since: that is told of the message, at the later point too.
    $this->get("{$this->url}?show=what&item={$this->key}")->assertOk()->assertSee('Pick this message')->assertSee('until');
    $this->request->update(['set_id' => BackupSet::query()->orderByDesc('instant')->value('id')]);
    $this->get("{$this->url}?show=what&item={$this->key}")->assertOk()->assertSee('It is not at the point in hand');
    $moved = substr(bin2hex(Kaiseki\Core\Mail\Message::identityOf($this->messages[0])), 0, 16);
    $this->get("{$this->url}?show=what&item=$moved")->assertOk()->assertSee('tree/greta/INBOX')->assertSee('tree/greta/Sent');
});

it('settles what, where and how, and says what is missing', function (): void {
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'only', 'item' => $this->key])
        ->assertRedirect("{$this->url}?show=what");
    $sheet = fn (): ItemsSheet => new ItemsSheet($this->request->refresh());
    expect(count($sheet()->chosen))->toBe(1)
        ->and($sheet()->blockers())->toBe(['No mail server is known for it: bin/kaiseki mail-server add, or take files.'])
        ->and($sheet()->sentence('UTC'))->toContain('Bring back the message "')->toContain('" of post');
    $before = $sheet()->fingerprint();
    $this->post("{$this->url}/items", ['settle' => 'where', 'destination' => 'files', 'form' => 'mbox'])->assertSessionHasNoErrors();
    expect($sheet()->blockers())->toBe([])->and($sheet()->fingerprint())->not->toBe($before);
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'folder', 'mailbox' => 'tree/greta', 'folder' => 'Sent']);
    expect(count($sheet()->chosen))->toBe(4)->and($sheet()->foldersInWords())->toBe(['tree/greta' => 'Sent 4']);
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'mailbox', 'mailbox' => 'tree/greta']);
    expect(count($sheet()->chosen))->toBe(12);
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'vanished', 'mailbox' => 'tree/greta']);
    expect(array_map(fn ($one): string => $one->item->key(), $sheet()->chosen))->toBe([$this->key]);
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'thread', 'item' => $this->key]);
    expect($sheet()->selection->items)->toBe([$this->key]);
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'ticked', 'items' => [$this->key]]);
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'drop', 'item' => $this->key]);
    expect($sheet()->selection->isEmpty())->toBeTrue();
    foreach (['when', 'what', 'where', 'how', 'preview', 'run', 'proof'] as $picker) {
        $this->get("{$this->url}?show=$picker")->assertOk();
    }
});

it('refuses what no page of ours sends', function (array $body): void {
    $this->post("{$this->url}/items", $body)->assertStatus(302)->assertSessionHasErrors();
    expect(ItemsSaid::of($this->request->refresh()))->toEqual(new ItemsSaid);
})->with([
    [['settle' => 'pick', 'pick' => 'everything']],
    [['settle' => 'pick', 'pick' => 'only', 'item' => '../x']],
    [['settle' => 'pick', 'pick' => 'found', 'q' => 'colour:red']],
    [['settle' => 'where', 'destination' => 'moon']],
    [['settle' => 'where', 'destination' => 'own', 'server' => 'nowhere']],
    [['settle' => 'where', 'destination' => 'mailbox', 'to_mailbox' => "a\nb"]],
    [['settle' => 'how', 'conflict' => 'overwrite']],
]);

it('runs the order, proves it, and gives a hand sheet that sh runs', function (): void {
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'mailbox', 'mailbox' => 'tree/greta']);
    $this->post("{$this->url}/items", ['settle' => 'where', 'destination' => 'files', 'form' => 'eml']);
    $sheet = new ItemsSheet($this->request->refresh());
    $run = Approvals::order($this->request, $this->operator, $sheet->fingerprint(), false);
    assert($run instanceof Run);
    App\Kinds\Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)->and($run->outcome['messages'])->toBe(12);
    $this->get("{$this->url}?show=proof")->assertOk()->assertSee('Proven')->assertSee('12 messages');
    $this->get("/runs/{$run->id}/page")->assertOk()->assertSee('12 messages');
    $this->get("/runs/{$run->id}/pdf")->assertOk();
    expect($run->canBePutBack())->toBeFalse();

    $sheet = $this->scratch()->file('sheet.sh', $this->get("{$this->url}/hand-sheet")->assertOk()->streamedContent());
    $this->scratch()->run('sh', $sheet, $this->scratch()->folder('by-hand'));
    $found = $this->scratch()->run('find', $this->scratch()->path.'/by-hand', '-type', 'f', '-path', '*/cur/*');
    expect(count(array_filter(explode("\n", (string) $found))))->toBe(12);
});

it('gives a message, its source and what came with it to who works the request, and to nobody else', function (): void {
    $item = DB::table('items')->where('attachments', '>', 0)->first();
    $own = "{$this->url}/items/".substr(bin2hex($item->identity), 0, 16);
    $bytes = collect($this->messages)->first(fn (string $one): bool => Kaiseki\Core\Mail\Message::identityOf($one) === $item->identity);
    expect($this->get("$own/source")->assertOk()->assertHeader('Content-Type', 'message/rfc822')->getContent())->toBe($bytes);
    $part = $this->get("$own/part/0")->assertOk();
    expect($part->headers->get('Content-Disposition'))->toStartWith('attachment; ')
        ->and($part->headers->get('Content-Type'))->toBe('application/octet-stream');
    $this->get("$own/part/99")->assertNotFound();
    $this->get("{$this->url}/items/".str_repeat('f', 16).'/source')->assertNotFound();
    expect(TrailEntry::query()->where('what', 'like', 'Took the source of the message%')->count())->toBe(1);
    $this->actingAs($this->person(Role::Operator, ['piers']))->get("$own/source")->assertForbidden();
    $this->actingAs($this->person(Role::Auditor))->get("$own/source")->assertForbidden();
});

it('asks a second person for a mailbox that is marked, and refuses a server of others', function (): void {
    $server = MailServer::query()->create([
        'name' => 'elsewhere', 'imap' => 'imap://127.0.0.1:1', 'user' => 'desk', 'password' => 'x', 'naming' => '{mailbox}',
    ]);
    Desk::belongs($server, 'piers');
    $limited = $this->person(Role::Operator, ['crew office']);
    $this->actingAs($limited)
        ->post("{$this->url}/items", ['settle' => 'where', 'destination' => 'mailbox', 'server' => 'elsewhere', 'to_mailbox' => 'x'])
        ->assertSessionHasErrors('server');
    App\Models\TargetRight::give($server, 'crew office', Role::Operator, [Right::Read, Right::Write]);
    $this->workload->update(['needs_approval' => true]);
    $this->actingAs($this->operator)->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'only', 'item' => $this->key]);
    $this->post("{$this->url}/items", ['settle' => 'where', 'destination' => 'mailbox', 'server' => 'elsewhere', 'to_mailbox' => 'greta']);
    $sheet = new ItemsSheet($this->request->refresh());
    expect($server->accountOf('tree/greta'))->toBe('tree/greta');
    $server->naming = '{name}@{above}.example';
    expect($server->accountOf('tree/greta'))->toBe('greta@tree.example')
        ->and($sheet->needsApproval())->toBeTrue()->and($sheet->refusedTo($limited))->toBeNull();
    $sheet->lookAgain();
    expect($sheet->blockers()[0])->toContain('does not answer');
});

it('says on the command line what is wrong with a rule for people’s own', function (array $arguments, string $why): void {
    $answer = $this->kaiseki('own-items', ...$arguments);
    expect([$answer->code, str_contains($answer->text, $why)])->toBe([2, true], $answer->text);
})->with([
    'no deed' => [['lend'], 'It is "own-items allow"'],
    'no workload' => [['allow'], 'Say of which workload'],
    'an unknown one' => [['allow', 'galley'], 'There is no workload named'],
    'no number' => [['allow', 'post', '--most=many'], '--most is a number'],
    'too much' => [['allow', 'post', '--mb=999999999'], 'holds from 1 to 100,000'],
    'nobody' => [['give', 'post', '--mailbox=tree/greta', '--person=nobody@x.example'], 'Say with --person'],
]);
