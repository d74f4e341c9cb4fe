<?php

declare(strict_types=1);

use App\Kinds\Items\ItemsGive;
use App\Kinds\Items\Live\LiveMailboxes;
use App\Kinds\Items\Live\Mirror;
use App\Kinds\Items\Live\MirrorPath;
use App\Kinds\Items\Server\MailServer as KnownServer;
use App\Models\BackupSet;
use App\Models\Workload;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\StandIns\CalendarServer;
use Kaiseki\StandIns\MailServer;
use Tests\Support\CalendarSamples;
use Tests\Support\CalendarServerAtWork;
use Tests\Support\CrewCalendars;
use Tests\Support\CrewMail;

/* Mailboxes, calendars and contacts that are read from real servers (Dovecot, Radicale), where nobody gets at their files. */

const LIVE = 'post';

beforeEach(function (): void {
    $this->crew = $this->calendars = null;
});

afterEach(function (): void {
    $this->crew?->server->remove();
    $this->calendars?->server->remove();
    $this->crew = $this->calendars = null;
});

/** The desk knows a server, before anything of it is protected. */
function serverOf(?CrewMail $mail, ?CrewCalendars $calendars): KnownServer
{
    return KnownServer::query()->create([
        'name' => 'far',
        'imap' => $mail === null ? '' : "imap://127.0.0.1:{$mail->server->server->port}",
        'dav' => $calendars === null ? '' : $calendars->server->address(),
        'user' => $mail === null ? CalendarServer::MASTER : MailServer::MASTER,
        'password' => $mail === null ? CalendarServerAtWork::PASSWORD : $mail->server->server->masterPassword(),
        'naming' => '{mailbox}',
    ]);
}

it('reads mailboxes from their server, and brings each point back as it was', function (int $seed): void {
    $this->crew = $crew = new CrewMail($this, $seed);
    serverOf($crew, null);
    $then = [];
    foreach (['full', 'incr', 'incr'] as $number => $level) {
        $crew->live($number === 0 ? 25 : 12);
        $arguments = $number === 0 ? ['--read-from=far', '--mailboxes='.CrewMail::ADA.', '.CrewMail::BEN] : [];
        $set = $this->told(0, 'protect', LIVE, "--level=$level", ...$arguments)['set'];
        $then[$set] = $crew->now(CrewMail::ADA);
        sleep(1); // a set is named by its second
    }
    foreach ($then as $set => $ada) {
        $told = $this->told(0, 'restore', LIVE, "--point=$set", '--mailbox='.CrewMail::ADA, '--to-mailbox='.CrewMail::SPARE);
        expect($crew->now(CrewMail::SPARE, CrewMail::ADA))->toEqualCanonicalizing($ada)
            ->and(array_unique(array_column($told['checks'], 'result')))->toBe(['passed']);
        $this->told(0, 'put-back', (string) $told['run']);
    }
    // What is there already is known by its content, in whatever way it was read.
    $again = $this->told(0, 'restore', LIVE, "--point=$set", '--mailbox='.CrewMail::ADA, '--in-place');
    expect($again['entries'])->toBe(0)->and($again['there_already'])->toBeGreaterThan(0);
    $gives = json_encode(ItemsGive::of(BackupSet::query()->where('name', $set)->sole()));
    expect($gives)->toContain('by IMAP, which knows no calendars and contacts');
})->with(deeper([1, 2]));

it('reads again only what changed, also after the server was gone in the middle of it', function (): void {
    $this->crew = $crew = new CrewMail($this, 5);
    serverOf($crew, null);
    $crew->live(30);
    $this->told(0, 'protect', LIVE, '--level=full', '--read-from=far', '--mailboxes='.CrewMail::ADA);
    $mirror = function (): int {
        $mirror = new Mirror(LiveMailboxes::of(Workload::query()->where('name', LIVE)->sole()) ?? throw new LogicException);
        $mirror->bringUpToDate();

        return $mirror->read;
    };
    expect($mirror())->toBe(0);
    $ada = $crew->server->open(CrewMail::ADA);
    $crew->arrive($ada, null, 'INBOX');
    $crew->arrive($ada, null, 'INBOX');
    expect($mirror())->toBe(2)->and($mirror())->toBe(0);
    $crew->server->kill();
    $answer = $this->kaiseki('protect', LIVE, '--level=incr', '--json');
    expect($answer->code)->not->toBe(0)->and($answer->text)->toContain('does not answer')->toContain('the next time goes on from there');
    $crew->server->begin();
    expect($mirror())->toBe(0);
});

it('reads a folder as a whole where its server numbered it anew, and says so', function (): void {
    $this->crew = $crew = new CrewMail($this, 6);
    serverOf($crew, null);
    $ada = $crew->server->open(CrewMail::ADA);
    foreach (range(1, 5) as $number) {
        $crew->arrive($ada, null, 'INBOX');
    }
    $ada->close();
    $this->told(0, 'protect', LIVE, '--level=full', '--read-from=far', '--mailboxes='.CrewMail::ADA);
    $crew->server->end();
    foreach (glob($crew->server->maildir(CrewMail::ADA).'/dovecot*') ?: [] as $index) {
        unlink($index); // what it had numbered by
    }
    $crew->server->begin();
    sleep(1);
    $set = $this->told(0, 'protect', LIVE, '--level=incr');
    expect(implode(' ', BackupSet::query()->where('name', $set['set'])->sole()->remarks ?? []))
        ->toContain('was numbered anew by its server');
    $at = BackupSet::query()->where('name', $set['set'])->sole()->captured_at->toIso8601ZuluString();
    $folders = $this->told(0, 'browse', LIVE, "--at=$at")['folders'];
    expect(array_column($folders, 'items', 'folder')['INBOX'])->toBe(5);
});

it('reads calendars and contacts from their server, and only those that changed again', function (): void {
    $this->calendars = $crew = new CrewCalendars($this, 7);
    serverOf(null, $crew);
    $crew->live(25);
    $first = $this->told(0, 'protect', LIVE, '--level=full', '--read-from=far', '--mailboxes='.CrewCalendars::ADA)['set'];
    $then = [$first => $crew->now(CrewCalendars::ADA)];
    sleep(1);
    $crew->live(10);
    $then[$this->told(0, 'protect', LIVE, '--level=incr')['set']] = $crew->now(CrewCalendars::ADA);
    foreach ($then as $set => $ada) {
        $told = $this->told(0, 'restore', LIVE, "--point=$set", '--mailbox='.CrewCalendars::ADA, '--to-mailbox='.CrewCalendars::SPARE);
        expect($crew->now(CrewCalendars::SPARE, CrewCalendars::ADA))->toEqualCanonicalizing($ada);
        $this->told(0, 'put-back', (string) $told['run']);
    }
    $mirror = new Mirror(LiveMailboxes::of(Workload::query()->where('name', LIVE)->sole()) ?? throw new LogicException);
    $mirror->bringUpToDate();
    $home = $crew->server->open(CrewCalendars::ADA);
    $work = $home->collection('work', ItemSort::Appointment);
    $home->put("{$work?->href}new.ics", (new CalendarSamples(1))->appointment('new@x'), ItemSort::Appointment, null);
    $again = new Mirror(LiveMailboxes::of(Workload::query()->where('name', LIVE)->sole()) ?? throw new LogicException);
    $again->bringUpToDate();
    expect([$mirror->read, $again->read])->toBe([0, 1]);

    // An account of changes that the server has no more is none to go by: all is looked through, and that is said.
    $crew->server->forget();
    $home->put("{$work?->href}newer.ics", (new CalendarSamples(2))->appointment('newer@x'), ItemSort::Appointment, null);
    $home->remove("{$work?->href}new.ics", $home->etags($work)["{$work->href}new.ics"]);
    sleep(1);
    $set = $this->told(0, 'protect', LIVE, '--level=incr')['set'];
    expect(implode(' ', BackupSet::query()->where('name', $set)->sole()->remarks ?? []))->toContain('no account any more of what changed');
    $told = $this->told(0, 'restore', LIVE, "--point=$set", '--mailbox='.CrewCalendars::ADA, '--to-mailbox='.CrewCalendars::SPARE);
    expect($told['right'] ?? true)->toBeTrue()
        ->and($crew->now(CrewCalendars::SPARE, CrewCalendars::ADA))->toEqualCanonicalizing($crew->now(CrewCalendars::ADA));
});

it('lets no name of a server lead out of the mirror', function (string $mailbox, string $folder, ?string $path): void {
    expect(MirrorPath::isMailbox($mailbox) ? MirrorPath::ofFolder($mailbox, $folder) : null)->toBe($path);
})->with([
    ['ada@x', 'INBOX', 'ada@x/Maildir'], ['ada@x', 'Projects/Dry dock', 'ada@x/Maildir/Projects/Dry dock'],
    ['ada@x', 'Übergabe', 'ada@x/Maildir/&ANw-bergabe'], ['ada@x', '../../etc', null], ['ada@x', 'a/../b', null], ['ada@x', '.hidden',
        null],
    ['ada@x', 'a//b', null], ['ada@x', 'Archive/cur', null], ['ada@x', "a\x07b", null], ['../ada', 'INBOX', null], ['', 'INBOX', null],
    ['ada@x', str_repeat('a', 300), null],
]);

it('says what to do where the order means nothing', function (array $arguments, string $says): void {
    serverOf(null, null)->update(['imap' => 'imap://127.0.0.1:9']);
    Workload::query()->create(['name' => 'other', 'kind' => 'items', 'source' => '/srv/mail']);
    $answer = $this->kaiseki('protect', ...[...$arguments, '--level=full', '--json']);
    expect($answer->code)->toBe(2)->and($answer->text)->toContain($says);
})->with([
    [['x', '--read-from=nowhere', '--mailboxes=a'], 'There is no mail server named'],
    [['x', '--read-from=far'], 'Say with --mailboxes'],
    [['x', '--read-from=far', '--mailboxes=../a'], 'is no name of a mailbox'],
    [['../x', '--read-from=far', '--mailboxes=a'], 'The name of a workload'],
    [['other', '--read-from=far', '--mailboxes=a'], 'is read from a folder'],
]);
