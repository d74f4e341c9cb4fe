<?php

declare(strict_types=1);

use App\Kinds\Items\Order\ItemsSheet;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\Workload;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;
use Tests\Support\CalendarSamples;

// What had to be erased since a set was made does not come back out of it, and is told.

beforeEach(function (): void {
    $scratch = $this->scratch();
    $letter = fn (string $from, string $to, string $subject): string => "From: $from\r\nTo: $to\r\nSubject: $subject\r\n\r\nhello\r\n";
    $this->letters = [
        'a' => $letter('Ada <ada@x.example>', 'Ben <ben@x.example>', 'one'),
        'b' => $letter('Gone <GONE@x.example>', 'Ben <ben@x.example>', 'two'),
        'c' => $letter('Ada <ada@x.example>', 'Ben <ben@x.example>, gone@x.example', 'three'),
        'd' => $letter('Ada <ada@x.example>', 'notgone@x.example', 'four'),
    ];
    foreach ($this->letters as $name => $bytes) {
        $scratch->file("mail/ben/Maildir/cur/17900000$name.M1.h:2,S", $bytes);
    }
    $this->card = CalendarSamples::folded(['BEGIN:VCARD', 'VERSION:3.0', 'UID:g', 'FN:Gone', 'EMAIL:gone@x.example', 'END:VCARD']);
    $scratch->file('mail/ben/people/g.vcf', $this->card);
    $this->set = $this->told(0, 'protect', 'post', "--mail={$scratch->path}/mail", '--level=full')['set'];
    $this->to = "{$scratch->path}/out";
});

/** @return list<string> subjects of what came */
function cameBack(string $folder): array
{
    $found = [];
    foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS)) as $file) {
        $found[] = trim((string) preg_replace('/^.*^(?:Subject|FN):([^\r\n]*).*$/ms', '$1',
            (string) file_get_contents($file->getPathname())));
    }
    sort($found);

    return $found;
}

it('keeps away all that names an address, in whatever part, and says why', function (): void {
    $this->told(0, 'erased', 'add', '--address=Gone@X.example', '--reason=asked for on 3 November');
    $told = $this->told(0, 'restore', 'post', "--point={$this->set}", '--mailbox=ben', "--to={$this->to}");
    $more = $this->told(0, 'restore', 'post', "--point={$this->set}", '--query=kind:message', "--to={$this->to}-2");
    expect(cameBack($this->to))->toBe(['four', 'one'])
        ->and($told['entries'])->toBe(2)
        ->and($told['left_out'])->toHaveCount(3)
        ->and($told['left_out'][0]['because'])->toContain('it names gone@x.example: asked for on 3 November')
        ->and($more['entries'])->toBe(2);
    $this->told(0, 'erased', 'remove', '--address=gone@x.example');
    $again = $this->told(0, 'restore', 'post', "--point={$this->set}", '--mailbox=ben', "--to={$this->to}-3");
    expect($again['entries'])->toBe(5)->and(TrailEntry::query()->where('what', 'like', '%erased%')->count())->toBe(2);
});

it('keeps away one item, wherever it lies and in whatever set', function (): void {
    $key = substr(bin2hex(Message::identityOf($this->letters['a'])), 0, 16);
    $this->told(0, 'erased', 'add', "--item=$key", '--of=post', '--reason=a court said so');
    $this->told(0, 'erased', 'add', '--item='.bin2hex(ItemSort::Contact->identityOf($this->card)), '--reason=the same');
    expect($this->told(0, 'erased', 'list')['erased'])->toHaveCount(2);
    $this->told(0, 'restore', 'post', "--point={$this->set}", '--mailbox=ben', "--to={$this->to}");
    expect(cameBack($this->to))->toBe(['four', 'three', 'two']);
    $only = $this->kaiseki('restore', 'post', "--point={$this->set}", "--item=$key", "--to={$this->to}-2", '--json');
    expect($only->code)->not->toBe(0)->and($only->text)->toContain('on the list of what was erased');
});

it('says on the worksheet what stays away', function (): void {
    $this->told(0, 'erased', 'add', '--address=gone@x.example', '--reason=asked <b>for</b>');
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->sole()->id, 'requester_id' => $this->person(Role::Requester)->id, 'summary' => 'All of it',
        'reason' => 'Needed', 'wanted_at' => now(), 'due_at' => now()->addHour(), 'set_id' => BackupSet::query()->sole()->id,
    ])->refresh();
    $request->workload?->update(['group' => 'crew office']);
    App\Models\Store::query()->get()->each(fn ($store) => Tests\Support\Desk::belongs($store, 'crew office'));
    $this->actingAs($this->person(Role::Operator));
    $this->post("/requests/{$request->id}/items", ['settle' => 'pick', 'pick' => 'mailbox', 'mailbox' => 'ben'])
        ->assertSessionHasNoErrors();
    $this->post("/requests/{$request->id}/items", ['settle' => 'where', 'destination' => 'files', 'form' => 'eml']);
    $this->get("/requests/{$request->id}?show=preview")->assertOk()->assertSee('Stays away')->assertSee('3 items on the list')
        ->assertSee('asked &lt;b&gt;for', false)->assertSee('2 messages');
    $counts = (new ItemsSheet($request->refresh()))->previewCounts();
    expect($counts['erased'])->toBe('2 messages and 1 contact stay away: on the list of what was erased');
});
