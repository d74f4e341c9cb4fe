<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Order\ItemsSheet;
use App\Kinds\Items\Run\ItemsCarrier;
use App\Kinds\Items\Server\MailServer;
use App\Models\Approval;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Runs\Shelf;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\MaildirName;
use Kaiseki\Core\Mail\Mbox;
use Kaiseki\Core\Mail\Message;
use Tests\Support\CrewMail;
use Tests\Support\MailSamples;
use Tests\Support\MailServerCutOff;

/*
 * Mailboxes of a real server (Dovecot), whose Maildir is protected as it lies, and which are brought back by IMAP. What lay there at each
 * point was asked of the server itself when the set was made.
 */

beforeEach(function (): void {
    $this->crew = null;
});

afterEach(function (): void {
    $this->crew?->server->remove();
    $this->crew = null;
});

/** @return string the moment of a set */
function momentOf(string $set): string
{
    return Instant::of(BackupSet::query()->where('name', $set)->firstOrFail()->captured_at)->iso();
}

it('knows each message at each point, whatever its file was called, and brings every point back', function (int $seed): void {
    $this->crew = $crew = new CrewMail($this, $seed);
    $crew->live(25);
    $crew->protect('full');
    foreach (['incr', 'incr', 'diff'] as $level) {
        $crew->live(12);
        $crew->protect($level);
    }
    $crew->known();
    foreach ($crew->then as $set => $there) {
        $browsed = $this->told(0, 'browse', CrewMail::WORKLOAD, '--at='.momentOf($set));
        $counts = [];
        foreach ($browsed['folders'] as $row) {
            $counts["{$row['mailbox']}/{$row['folder']}"] = $row['items'];
        }
        expect($counts)->toEqualCanonicalizing(array_map(count(...), CrewMail::distinct($there)));
        // Into an empty mailbox, and out of it again.
        $told = $this->told(
            0, 'restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, '--to-mailbox='.CrewMail::SPARE,
        );
        $ada = array_filter($there, fn (string $folder): bool => str_starts_with($folder, CrewMail::ADA), ARRAY_FILTER_USE_KEY);
        $now = $crew->now(CrewMail::SPARE, CrewMail::ADA);
        expect($now)->toEqualCanonicalizing($ada)
            ->and($told['entries'])->toBe(array_sum(array_map(count(...), $ada)))
            ->and(array_unique(array_column($told['checks'], 'result')))->toBe(['passed']);
        $this->told(0, 'put-back', (string) $told['run']);
        expect($crew->now(CrewMail::SPARE))->toBe([]);
    }
})->with(deeper([1, 2, 3, 4]));

it('is one message with either ending of lines, moved, copied and with other flags', function (): void {
    $this->crew = $crew = new CrewMail($this, 9);
    $message = (new MailSamples(90))->message();
    $ada = $crew->server->open(CrewMail::ADA);
    $crew->arrive($ada, $message, 'INBOX');
    $ada->close();
    $crew->protect('full');
    $file = glob($crew->server->maildir(CrewMail::ADA).'/cur/*')[0] ?? glob($crew->server->maildir(CrewMail::ADA).'/new/*')[0];
    $to = $crew->server->maildir(CrewMail::ADA).'/.Sent/cur/'.MaildirName::of(basename($file))->base.':2,FS';
    is_dir(dirname($to)) || mkdir(dirname($to), 0777, true);
    file_put_contents($to, str_replace("\r\n", "\n", (string) file_get_contents($file)));
    $this->scratch()->run('chown', '-R', '--reference='.$file, dirname($to, 2));
    $crew->protect('incr');
    $item = DB::table('items')->get();
    expect($item)->toHaveCount(1)->and(DB::table('item_contents')->count())->toBe(2);
    $one = $this->told(0, 'item', CrewMail::WORKLOAD, bin2hex($item[0]->identity));
    expect(array_column($one['places'], 'folder'))->toBe(['INBOX', 'Sent'])
        ->and($one['places'][1]['flags'])->toBe('FS')
        ->and($one['until'])->toBeNull()
        ->and($one['text'])->toBe(Message::of($message)->text());
});

it('brings only what is missing, however often, and takes nothing away that somebody changed', function (): void {
    $this->crew = $crew = new CrewMail($this, 5);
    $crew->live(20);
    $set = $crew->protect('full');
    $crew->known();
    $before = $crew->now(CrewMail::ADA);
    $ada = $crew->server->open(CrewMail::ADA);
    $folder = substr((string) array_key_first($before), strlen(CrewMail::ADA) + 1);
    $ada->select($folder);
    $gone = array_slice($ada->messages(), 0, 2);
    $ada->remove(array_map(fn ($message): int => $message->uid, $gone));
    $ada->close();
    $order = ['restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, '--in-place'];
    $first = $this->told(0, ...$order);
    $again = $this->told(0, ...$order);
    expect([$first['entries'], $again['entries']])->toBe([2, 0])
        ->and($again['there_already'])->toBe(array_sum(array_map(count(...), CrewMail::distinct($before))))
        ->and($crew->now(CrewMail::ADA))->toEqualCanonicalizing($before);

    // One of the two is flagged by its owner, and stays.
    $crew->server->doveadm('flags', 'add', '-u', CrewMail::ADA, '\Flagged custom', 'mailbox', $folder, 'all');
    $back = $this->told(4, 'put-back', (string) $first['run']);
    expect([$back['removed'], count($back['left'])])->toBe([0, 2])
        ->and($back['left'][0]['because'])->toContain('flags were changed')
        ->and($crew->now(CrewMail::ADA))->toHaveCount(count($before));
});

it('goes on where it was killed, with no message lost and none twice', function (): void {
    $this->crew = $crew = new CrewMail($this, 6);
    $crew->live(40);
    $set = $crew->protect('full');
    $crew->known();
    $there = array_filter($crew->then[$set], fn (string $of): bool => str_starts_with($of, CrewMail::ADA), ARRAY_FILTER_USE_KEY);
    $plan = $this->told(
        0, 'restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, '--to-mailbox='.CrewMail::SPARE,
    );
    $run = Run::query()->findOrFail($plan['run']);
    // As it was when its process died: after a message was laid, and before that was written down.
    $journal = App\Runs\RunFiles::journal($run);
    $lines = file($journal);
    $cut = 2 * intdiv(count($lines), 3);
    while (! str_starts_with($lines[$cut - 1], 'laying')) {
        $cut--;
    }
    $laid = array_map(fn (string $line): array => explode("\t", rtrim($line)), array_slice($lines, $cut + 1));
    $spare = $crew->server->open(CrewMail::SPARE);
    foreach (array_filter($laid, fn (array $line): bool => $line[0] === 'laid') as $line) {
        $spare->select(rawurldecode($line[3]));
        $spare->remove([(int) $line[5]]);
    }
    $spare->close();
    file_put_contents($journal, implode('', array_slice($lines, 0, $cut)));
    $run->update(['state' => 'queued', 'worker' => null, 'outcome' => null, 'ended_at' => null]);
    (new ItemsCarrier)->carryOut($run->refresh());
    expect($run->refresh()->state)->toBe('done')
        ->and($run->outcome['right'])->toBeTrue()
        ->and($crew->now(CrewMail::SPARE, CrewMail::ADA))->toEqualCanonicalizing($there);
});

it('waits for a server that was cut off, and goes on', function (): void {
    $this->crew = $crew = new CrewMail($this, 7);
    $crew->live(30);
    $set = $crew->protect('full');
    $cut = new MailServerCutOff($crew->server, 3);
    $crew->known($cut->port);
    $there = array_filter($crew->then[$set], fn (string $of): bool => str_starts_with($of, CrewMail::ADA), ARRAY_FILTER_USE_KEY);
    $told = $this->told(0, 'restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, '--to-mailbox='.CrewMail::SPARE);
    $now = $crew->now(CrewMail::SPARE, CrewMail::ADA);
    $cut->end();
    expect($told['entries'])->toBe(array_sum(array_map(count(...), $there)))->and($told['entries'])->toBeGreaterThan(5)
        ->and($now)->toEqualCanonicalizing($there);
});

it('says before anything is laid what stands in the way', function (): void {
    $this->crew = $crew = new CrewMail($this, 8);
    $crew->server->server->mailbox('small@sorrel.example', 'x', 1);
    $ada = $crew->server->open(CrewMail::ADA);
    foreach (range(1, 5) as $number) {
        $head = "Subject: big $number\r\nMessage-ID: <big$number@sorrel.example>\r\n\r\n";
        $crew->arrive($ada, $head.str_repeat("x\r\n", 100_000), 'INBOX');
    }
    $ada->close();
    $set = $crew->protect('full');
    $order = ['restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA];
    expect($this->kaiseki(...[...$order, '--in-place'])->text)->toContain('is not known: say it with');
    $crew->known();
    expect($this->told(4, ...[...$order, '--to-mailbox=small@sorrel.example'])['error'])->toContain('raise its limit, or choose less')
        ->and($this->told(4, ...[...$order, '--to-mailbox=nobody@sorrel.example'])['error'])->toContain('refused the sign-in')
        ->and($this->kaiseki(...[...$order, '--to-mailbox=x', '--in-place'])->code)->toBe(2)
        ->and($this->kaiseki('restore', CrewMail::WORKLOAD, "--point=$set", '--in-place')->code)->toBe(2)
        ->and($this->kaiseki(...[...$order, '--folder=Nowhere', '--in-place'])->code)->toBe(3);
});

it('writes files that other programs read', function (string $form): void {
    $this->crew = $crew = new CrewMail($this, 3);
    $crew->live(25);
    $set = $crew->protect('full');
    $to = $this->scratch()->path.'/out';
    $told = $this->told(0, 'restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, "--to=$to", "--as=$form");
    $there = array_filter($crew->then[$set], fn (string $of): bool => str_starts_with($of, CrewMail::ADA), ARRAY_FILTER_USE_KEY);
    $python = MailSamples::python(<<<'PY'
        import sys, json, os, re, mailbox, hashlib
        to, form = json.load(sys.stdin)
        out = []
        def take(raw, folder, flags=''):
            out.append([folder, hashlib.blake2b(raw.replace(b'\r\n', b'\n'), digest_size=32).hexdigest(), flags])
        if form == 'maildir':
            box = mailbox.Maildir(os.path.join(to, os.listdir(to)[0], 'Maildir'), create=False)
            for folder in [''] + box.list_folders():
                at = box if folder == '' else box.get_folder(folder)
                for key in at.keys():
                    take(at.get_bytes(key), folder, ''.join(sorted(at.get_message(key).get_flags())))
        else:
            for at, _, names in os.walk(to):
                for name in names:
                    path = os.path.join(at, name)
                    if form == 'eml':
                        take(open(path, 'rb').read(), os.path.relpath(at, to))
                    else:
                        box = mailbox.mbox(path, create=False)
                        for key in box.keys():
                            take(re.sub(rb'(?m)^>(>*From )', rb'\1', box.get_bytes(key)), os.path.relpath(path, to))
        json.dump(out, sys.stdout)
        PY, [$to, $form]);
    $digests = array_column($python, 1);
    $expected = array_merge(...array_values(CrewMail::distinct($there)));
    if ($form === 'mbox') { // gives an end of line to what has none
        expect(count($digests))->toBe(count($expected));
    } else {
        expect($digests)->toEqualCanonicalizing($expected);
    }
    expect($told['entries'])->toBe(count($expected))->and(array_column($told['checks'], 'result'))->toBe(['passed']);
    $again = $this->told(4, 'restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, "--to=$to");
    expect($again['error'])->toContain('is not empty');
})->with(['eml', 'mbox', 'maildir']);

it('finds messages in mbox and in single files, and gives them back as they were', function (): void {
    $samples = new MailSamples(31);
    $messages = array_map(fn (): string => str_replace("\r\n", "\n", $samples->message()), range(1, 12));
    $scratch = $this->scratch();
    $scratch->file('mail/ines/Sent', implode('', array_map(
        fn (string $one): string => Kaiseki\Core\Mail\MboxWriter::entry($one, 1_790_000_000),
        array_slice($messages, 0, 8),
    )));
    foreach (array_slice($messages, 8) as $number => $message) {
        $scratch->file("mail/ines/Letters/2026/$number.eml", $message);
    }
    $scratch->file('mail/ines/notes.txt', "From me\n");
    $scratch->file('mail/ines/dovecot.index.log', 'From here');
    $scratch->file('mail/ines/README', 'no mbox');
    $this->told(0, 'protect', 'letters', '--level=full', "--mail={$scratch->path}/mail");
    $set = BackupSet::query()->firstOrFail();
    $folders = $this->told(0, 'browse', 'letters', '--at='.momentOf($set->name))['folders'];
    expect(array_map(fn (array $row): array => [$row['mailbox'], $row['folder'], $row['items']], $folders))
        ->toBe([['ines', 'Letters/2026', 4], ['ines', 'Sent', 8]]);
    $to = "{$scratch->path}/out";
    $this->told(0, 'restore', 'letters', "--point={$set->name}", '--mailbox=ines', "--to=$to", '--as=mbox');
    $file = fopen("$to/ines/Sent.mbox", 'rb');
    $mbox = Mbox::of($file);
    $back = [];
    foreach ($mbox->messages() as $message) {
        $back[] = $mbox->content($message);
    }
    $ended = fn (string $one): string => str_ends_with($one, "\n") ? $one : "$one\n";
    expect($back)->toEqualCanonicalizing(array_map($ended, array_slice($messages, 0, 8)));
});

it('forgets what messages said with the last set that had them', function (): void {
    $this->crew = $crew = new CrewMail($this, 14);
    $ada = $crew->server->open(CrewMail::ADA);
    $uid = $crew->arrive($ada, $message = (new MailSamples(140))->message(), 'INBOX');
    $crew->arrive($ada, (new MailSamples(141))->message(), 'INBOX');
    $first = $crew->protect('full');
    $ada->select('INBOX');
    $ada->remove([$uid]);
    $ada->close();
    $crew->protect('full');
    $workload = Workload::query()->firstOrFail();
    expect(ItemCatalog::forgetGone($workload))->toBe(0)->and(DB::table('items')->count())->toBe(2);
    $this->told(0, 'keep', CrewMail::WORKLOAD, 'last=1');
    $expired = $this->told(0, 'expire', CrewMail::WORKLOAD);
    expect(json_encode($expired))->toContain($first);
    $this->kaiseki('expire', CrewMail::WORKLOAD, '--yes');
    expect(BackupSet::query()->count())->toBe(1)
        ->and(ItemCatalog::forgetGone($workload))->toBe(1)
        ->and(DB::table('items')->where('identity', Message::identityOf($message))->exists())->toBeFalse()
        ->and([DB::table('items')->count(), DB::table('item_contents')->count(), DB::table('item_terms')->count()])->toBe([1, 1, 1]);
});

it('brings what vanished between two moments', function (): void {
    $this->crew = $crew = new CrewMail($this, 12);
    $crew->live(15);
    $set = $crew->protect('full');
    $ada = $crew->server->open(CrewMail::ADA);
    $gone = (new MailSamples(120))->message();
    $uid = $crew->arrive($ada, $gone, 'INBOX');
    $then = $crew->protect('incr');
    $ada->select('INBOX');
    $ada->remove([$uid]);
    $ada->close();
    $after = $crew->protect('incr');
    $crew->known();
    $told = $this->told(
        0, 'restore', CrewMail::WORKLOAD, "--point=$then", '--mailbox='.CrewMail::ADA, '--vanished-by='.momentOf($after), '--in-place',
    );
    expect($told['entries'])->toBe(1)
        ->and(array_merge(...array_values(CrewMail::distinct($crew->now(CrewMail::ADA)))))->toContain(bin2hex(Message::identityOf($gone)))
        ->and($set)->not->toBe($then);
});

it('is found anew from the archives, also when the first set is gone, and from another copy where one is damaged', function (): void {
    $this->crew = $crew = new CrewMail($this, 13);
    $crew->live(15);
    $first = $crew->protect('full');
    $crew->live(8);
    $crew->protect('incr');
    $workload = Workload::query()->firstOrFail();
    $items = fn (): array => DB::table('items')->orderBy('identity')->get(['identity', 'subject', 'attachments', 'received_at'])->toArray();
    $before = $items();
    ItemCatalog::forget($workload);
    expect(ItemCatalog::isBehind($workload))->toBeTrue();
    ItemCatalog::bringUpToDate($workload);
    expect($items())->toEqual($before);

    // As where the database was lost: from what lies in the store alone.
    $browse = fn (): array => $this->told(0, 'browse', CrewMail::WORKLOAD, '--at='.Instant::of(new DateTimeImmutable)->iso())['folders'];
    $folders = $browse();
    $mine = $this->scratch()->folder('mine/'.CrewMail::WORKLOAD);
    foreach (Copy::query()->with('store')->get() as $copy) {
        foreach (glob("{$copy->store->root}/".preg_replace('/\.tar\.gz$/', '', $copy->path).'*') ?: [] as $file) {
            copy($file, "$mine/".basename($file));
        }
    }
    $this->kaiseki('store-add', 'mine', dirname($mine));
    Copy::query()->delete();
    DB::table('sets')->update(['base_id' => null, 'tried_base_id' => null]);
    DB::table('sets')->delete();
    DB::table('versions')->delete();
    ItemCatalog::forget($workload);
    $workload->histories()->delete();
    $workload->delete();
    expect($this->told(0, 'catalog', 'rebuild', '--store=mine')['problems'])->toBe([])
        ->and(Workload::query()->where('name', CrewMail::WORKLOAD)->value('kind'))->toBe('items')
        ->and($items())->toEqual($before)
        ->and($browse())->toBe($folders);

    // A copy is damaged from its middle on: what lies there and nowhere else is told, and the rest comes back.
    $copy = Copy::query()->whereRelation('set', 'name', $first)->firstOrFail();
    $file = "{$copy->store->root}/{$copy->path}";
    $bytes = (string) file_get_contents($file);
    file_put_contents($file, substr($bytes, 0, intdiv(strlen($bytes), 2)).str_repeat("\0", 4_000));
    $to = $this->scratch()->path.'/out';
    $told = $this->told(4, 'restore', CrewMail::WORKLOAD, "--point=$first", '--mailbox='.CrewMail::ADA, "--to=$to");
    expect($told['left_out'])->not->toBe([])
        ->and($told['left_out'][0]['because'])->toContain('in no archive')
        ->and($told['entries'])->toBeGreaterThan(0);
});

it('keeps what was said of a mail server, until something else is said', function (): void {
    putenv('KAISEKI_MAIL_PASSWORD=secret');
    $add = fn (int $code, string ...$said): array => $this->told($code, 'mail-server', 'add', 'elsewhere', ...$said);
    $add(0, '--imap=imap://127.0.0.1:1143', '--user=desk', '--naming={name}@x.example');
    $add(0, '--make=["/usr/local/sbin/make-mailbox","--group=crew"]', '--unmake=["/usr/local/sbin/take-mailbox"]');
    $server = MailServer::query()->where('name', 'elsewhere')->sole();
    expect([$server->naming, $server->imap, $server->site])->toBe(['{name}@x.example', 'imap://127.0.0.1:1143', 'boathouse'])
        ->and($server->makes)->toBe(['/usr/local/sbin/make-mailbox', '--group=crew'])
        ->and(array_column($this->told(0, 'mail-server', 'list')['servers'], 'makes', 'server'))->toBe(['elsewhere' => true]);
    $add(2, '--make=make-mailbox $(reboot)');
    $add(0, '--make=', '--unmake=');
    expect([$server->refresh()->makes, $server->unmakes])->toBe([null, null]);
    putenv('KAISEKI_MAIL_PASSWORD');
});

it('has a mailbox made that is gone, with two people, and taken away again', function (): void {
    $this->crew = $crew = new CrewMail($this, 27);
    $crew->live(14);
    $set = $crew->protect('full');
    $program = fn (string $what): array => [PHP_BINARY, base_path('tests/Support/make-mailbox.php'), $crew->server->server->folder, $what];
    $server = $crew->known();
    $server->update(['makes' => $program('make'), 'unmakes' => $program('take')]);
    $domain = substr((string) strrchr(CrewMail::ADA, '@'), 1);
    $order = ['restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, '--make-mailbox'];
    expect($this->kaiseki(...[...$order, "--to-mailbox=gone@$domain", '--json'])->text)->toContain('made takes two people');

    $workload = Workload::query()->sole();
    $operator = $this->person(Role::Operator);
    $ordered = function (string $mailbox) use ($workload, $operator): ItemsSheet {
        $request = RecoveryRequest::query()->create([
            'workload_id' => $workload->id, 'requester_id' => $operator->id, 'summary' => 'Ada came back', 'reason' => 'She works here',
            'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
        ])->refresh();
        $this->actingAs($operator);
        foreach ([
            ['settle' => 'pick', 'pick' => 'mailbox', 'mailbox' => CrewMail::ADA],
            ['settle' => 'where', 'destination' => 'mailbox', 'to_mailbox' => $mailbox, 'awaits' => '1'],
        ] as $said) {
            $this->post("/requests/{$request->id}/items", $said)->assertSessionHasNoErrors();
        }
        $this->get("/requests/{$request->id}?show=where")->assertSee('once a second person has said yes');

        return new ItemsSheet($request->refresh());
    };
    $begun = fn (ItemsSheet $sheet): Run => Run::query()->create([
        'workload_id' => $workload->id, 'set_id' => $sheet->point?->id, 'request_id' => $sheet->request->id, 'state' => 'queued',
        'user_id' => $operator->id, 'plan' => $sheet->order?->toArray() ?? [], 'is_whole' => false,
    ]);
    $sheet = $ordered("gone@$domain");
    expect($sheet->needsApproval())->toBeTrue()->and($sheet->order?->makes)->toBeTrue()
        ->and($sheet->sentence('UTC'))->toContain('made anew, if it is not there')
        ->and(Approvals::order($sheet->request, $operator, $sheet->fingerprint(), false))->toBeInstanceOf(Approval::class);
    $run = $begun($sheet);
    (new ItemsCarrier)->carryOut($run);
    $ada = array_filter($crew->then[$set], fn (string $folder): bool => str_starts_with($folder, CrewMail::ADA), ARRAY_FILTER_USE_KEY);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)->and($run->outcome['right'])->toBeTrue()
        ->and($crew->now("gone@$domain", CrewMail::ADA))->toEqualCanonicalizing($ada)
        ->and(implode(' ', array_column($run->outcome['checks'], 'detail')))
        ->toContain("gone@$domain was made anew on crew: rights and shares");
    // With a letter of its own in it, it stays; without, it goes as it came.
    $own = $server->open("gone@$domain");
    $own->append('INBOX', "Subject: mine\r\n\r\nmine\r\n", [], time());
    $own->close();
    $told = (new ItemsCarrier)->putBack($run, false);
    expect(implode(' ', $told->lines))->toContain('something lies in it since')->and($crew->now("gone@$domain"))->not->toBe([]);
    $next = $begun($ordered("fresh@$domain"));
    (new ItemsCarrier)->carryOut($next);
    expect($next->refresh()->state)->toBe('done', (string) $next->failure);
    expect((new ItemsCarrier)->putBack($next, false)->lines)->toHaveCount(1); // nothing was left
    $isThere = function () use ($server, $domain): bool {
        try {
            $server->open("fresh@$domain")->close();

            return true;
        } catch (ImapFailure) {
            return false;
        }
    };
    while ($isThere()) {
        usleep(200_000); // Dovecot looks at its list of accounts once a second
    }

    // What the program refuses is said, and nothing was laid.
    $refused = $begun($ordered("refused@$domain"));
    (new ItemsCarrier)->carryOut($refused);
    expect($refused->refresh()->state)->toBe('failed')->and($refused->failure)->toContain('No group has that name.');
});

it('waits for a mailbox that is not there, and goes on by itself when it has been made', function (): void {
    $this->crew = $crew = new CrewMail($this, 27);
    $crew->live(14);
    $set = $crew->protect('full');
    $crew->known();
    $gone = 'gone@'.substr((string) strrchr(CrewMail::ADA, '@'), 1);
    $order = ['restore', CrewMail::WORKLOAD, "--point=$set", '--mailbox='.CrewMail::ADA, "--to-mailbox=$gone"];
    expect($this->kaiseki(...[...$order, '--json'])->text)->toContain('wait for one, choose another, or take files');
    $told = $this->told(3, ...[...$order, '--make-mailbox']);
    $run = Run::query()->findOrFail($told['run']);
    expect($told['state'])->toBe('waiting')->and($told['waits_for'])->toBe(["the mailbox $gone on crew"]);
    Queue::fake();
    Shelf::goOn();
    expect($run->refresh()->state)->toBe('waiting');
    $crew->server->end();
    Shelf::goOn(); // a server that is silent has made nothing
    expect($run->refresh()->state)->toBe('waiting');
    $crew->server->begin();
    $crew->server->server->mailbox($gone, 'a-password-of-theirs');
    Shelf::goOn();
    expect($run->refresh()->state)->toBe('queued')->and($run->waits_for)->toBeNull();
    Queue::assertPushed(CarryOutRun::class, 1);
    (new ItemsCarrier)->carryOut($run);
    $ada = array_filter($crew->then[$set], fn (string $folder): bool => str_starts_with($folder, CrewMail::ADA), ARRAY_FILTER_USE_KEY);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)
        ->and($run->outcome['right'])->toBeTrue()
        ->and($crew->now($gone, CrewMail::ADA))->toEqualCanonicalizing($ada);
});
