<?php

declare(strict_types=1);

use App\Console\CommandLine\Kaiseki;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Host;
use App\Models\Run;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\Workload;
use Tests\Support\Desk;

// What each command says of input that makes no sense: it ends with 2, names what is wrong, changes nothing, and shows no trace of code.

/** @return array<string, array{list<string>, string}> command line => its arguments, and what must be said */
function wrongInput(): array
{
    $lines = [
        ['commands run', 'allow and forbid'],
        ['commands allow [] nobody', 'one account'],
        ['roots look', 'give and take'],
        ['roots give /etc', 'one account'],
        ['alarm ring', 'receivers'],
        ['alarm to desk', '--webhook'],
        ['alarm to desk --mail=nobody', 'nobody'],
        ['alarm to desk --webhook=http://elsewhere.example/x', 'https'],
        ['alarm to desk --mail=ines@sorrelsound.example --about=cheese', 'cheese'],
        ['alarm to desk --mail=ines@sorrelsound.example --repeat=0', '--repeat'],
        ['alarm try nobody', 'nobody'],
        ['adopt /no/such/folder --as=x', 'no/such/folder'],
        ['adopt / --as=x --kind=cheese', 'cheese'],
        ['adopt / --as=../x', 'letters, digits, dots'],
        ['bad-contents /no/such/list', 'no/such/list'],
        ['browse nobody --at=2026-10-02T12:00:00Z', 'nobody'],
        ['browse crew --at=someday', 'someday'],
        ['browse crew --point=nothing', 'It takes: --json, --at, --path'],
        ['cartridge near HV1', 'near'],
        ['cartridge vault NOPE', 'NOPE'],
        ['catalog burn', 'rebuild, export, import or night-kit'],
        ['catalog export', 'folder'],
        ['check nobody', 'nobody'],
        ['check crew --set=nothing', 'nothing'],
        ['check crew --store=nowhere', 'nowhere'],
        ['check-plan nowhere --mb=1', 'nowhere'],
        ['check-plan near --mb=-1', '--mb'],
        ['check-plan near --mb=10 --from=25:00', '25:00'],
        ['check-plan near --mb=10 --zone=Mars/Base', 'Mars/Base'],
        ['check-proof /no/such/proof', 'no/such/proof'],
        ['copy nobody x --to=far', 'nobody'],
        ['copy crew nothing --to=far', 'nothing'],
        ['copy crew SET --to=nowhere', 'nowhere'],
        ['expire nobody', 'nobody'],
        ['find nobody x', 'nobody'],
        ['find crew * --size=huge', 'huge'],
        ['hand-sheet nobody --at=2026-10-02T12:00:00Z', 'nobody'],
        ['hand-sheet crew --at=2026-10-02T12:00:00Z --path=../..', '..'],
        ['standing up', 'arguments'],
        ['settle 4711', '4711'],
        ['settle', 'run'],
        ['discard 4711', '4711'],
        ['annex 4711', '4711'],
        ['scan 4711', '4711'],
        ['scan 1 --budget=soon', '--budget'],
        ['verdict 4711 harmless --why=x', '4711'],
        ['verdict 1 odd --why=x', 'harmless or bad'],
        ['release 4711', '4711'],
        ['release', 'run'],
        ['stand-in 4711', '4711'],
        ['stand-in', 'run'],
        ['go-home 4711', '4711'],
        ['go-home', 'run'],
        ['inside 4711 --why=x ls', '4711'],
        ['inside 4711 --why=x', 'Name a program'],
        ['snapshot take', 'workload'],
        ['snapshot take nobody', 'no machine'],
        ['medium burn', 'medium make'],
        ['medium make --format=tape', 'iso, stick, netboot'],
        ['medium make --to=/nowhere/at/all', 'no folder'],
        ['medium make --desk=pier', '--desk=HOST:PORT'],
        ['medium make --desk=pier:443 --for=4711', 'no request'],
        ['medium code', 'no machine'],
        ['medium code nobody', 'no machine'],
        ['medium end 4711', 'no enrolment'],
        ['medium switch 4711', 'no enrolment'],
        ['own-machines burn', 'own-machines allow'],
        ['own-machines allow nobody --person=a@b', 'no machine'],
        ['own-machines end nobody --group=crew', 'no machine'],
        ['agent', 'what'],
        ['agent burn', 'agent list'],
        ['agent script', 'which machine'],
        ['agent script a/b --desk=pier:443', 'letters, digits'],
        ['agent script gate --desk=pier', 'HOST:PORT'],
        ['agent script gate --desk=pier:443 --minutes=0', '--minutes'],
        ['agent script gate --desk=pier:443 --minutes=99999', '--minutes'],
        ['agent script gate --desk=pier:443 --group=<b>', 'name of a group'],
        ['agent revoke', 'agent list'],
        ['agent revoke 4711', 'No agent has the number'],
        ['enrolled --all', '--all'],
        ['layout show nobody --at=2026-10-02T12:00:00Z', 'no machine'],
        ['layout draw nobody --at=2026-10-02T12:00:00Z', 'no machine'],
        ['item nobody aaaaaaaa', 'nobody'],
        ['item crew aaaaaaaa', 'about mailboxes'],
        ['mail-server burn', 'mail-server add NAME'],
        ['mail-server add', 'name'],
        ['mail-server add a/b', 'letters, digits'],
        ['mail-server add crew', '--imap'],
        ['mail-server add crew --imap=mail.example', 'no address'],
        ['mail-server add crew --imap=imap://mail.example --user=x', 'encrypted only'],
        ['mail-server add crew --imap=imaps://mail.example --naming=x', '{mailbox}'],
        ['mail-server add crew --imap=imaps://mail.example --user=x', 'KAISEKI_MAIL_PASSWORD'],
        ['mail-server add crew --dav=http://dav.example/ --user=x', 'encrypted only'],
        ['erased', 'what'],
        ['erased everything', 'erased add'],
        ['erased add --reason=x', '--address and --item'],
        ['erased add --address=nobody --reason=x', 'is no address'],
        ['erased add --address=a@b.example', '--reason'],
        ['erased add --item=0123456789abcdef --reason=x', '--of'],
        ['erased remove --address=a@b.example', 'not on the list'],
        ['own-items', 'what'],
        ['own-items share', 'own-items allow'],
        ['own-items allow', 'of which workload'],
        ['own-items allow nobody', 'nobody'],
        ['own-items allow crew', 'about mailboxes'],
        ['own-items end crew', 'about mailboxes'],
        ['own-items give crew --mailbox=x --person=nobody@sorrelsound.example', 'about mailboxes'],
        ['name-server lead', 'name-server add NAME'],
        ['name-server add', 'name'],
        ['name-server add a/b', 'letters, digits'],
        ['name-server add buoy', '--address'],
        ['name-server add buoy --address=pier --zone=a.example --key=/x', 'is no address'],
        ['name-server add buoy --address=192.0.2.1:99999 --zone=a.example --key=/x', 'no port 99999'],
        ['name-server add buoy --address=192.0.2.1 --zone=a_b --key=/x', 'no name of a host'],
        ['name-server add buoy --address=192.0.2.1 --zone=a.example --key=/x', 'holds no key'],
        ['name-server remove buoy', 'name-server list'],
        ['machine-name add a..b --of=berth', 'no name of a host'],
        ['machine-name add a.example', '--of'],
        ['machine-name lead a.example', 'machine-name add'],
        ['machine-name remove a.example', 'name-server list'],
        ['hypervisor burn', 'hypervisor add NAME'],
        ['hypervisor add', 'name'],
        ['hypervisor add a/b --folder=/x', 'letters, digits'],
        ['hypervisor add ketch', '--folder'],
        ['hypervisor add ketch --folder=vm', 'whole path'],
        ['machine burn kelp', 'machine show NAME'],
        ['machine show', 'Name the machine'],
        ['machine show kelp', 'kelp'],
        ['machine list --on=nowhere', 'nowhere'],
        ['hold nobody SET --reason=x', 'nobody'],
        ['hold crew nothing --reason=whatever', 'nothing'],
        ['hold crew SET', 'reason'],
        ['host-add here --folder=/tmp', 'another name'],
        ['host-add kiosk', 'folder'],
        ['judge crew SET splendid', 'splendid'],
        ['judge crew nothing good --reason=x', 'nothing'],
        ['exclude nobody *.tmp --because=x', 'nobody'],
        ['exclude crew *.tmp', 'why it is left out'],
        ['exclude crew logs/old --because=x', 'begins with one'],
        ['exclude crew * --because=x', 'everything'],
        ['exclude crew --because=x', 'Say what'],
        ['exclude crew *.tmp --remove', 'do not leave out'],
        ['keep nobody last=3', 'nobody'],
        ['keep crew forever=1', 'forever'],
        ['keep crew last=0', 'keeps nothing'],
        ['keep crew last=3 --store=nowhere', 'nowhere'],
        ['kinds surplus', 'arguments'],
        ['mend nobody SET --store=near', 'nobody'],
        ['mend crew nothing --store=near', 'nothing'],
        ['plan nobody --at=2026-10-02T12:00:00Z', 'nobody'],
        ['plan crew --at=2026-13-45', '2026-13-45'],
        ['plan crew --at=2026-10-02T12:00:00Z --demand=shiny', 'shiny'],
        ['points nobody', 'nobody'],
        ['points crew --at=whenever', 'whenever'],
        ['preview crew --at=2026-10-02T12:00:00Z --path=tree', 'to'],
        ['preview crew --at=2026-10-02T12:00:00Z --path=tree --to=/tmp/x --conflict=fight', 'rename-present'],
        ['proof 999999', '999999'],
        ['proof one', 'one'],
        ['protect nobody', 'nobody'],
        ['protect crew --level=huge --store=near', 'huge'],
        ['protect crew --level=full --store=nowhere', 'nowhere'],
        ['protect crew --level=full --store=near --before=[not-json', 'JSON'],
        ['put-back 999999', '999999'],
        ['restore nobody --at=2026-10-02T12:00:00Z --to=/tmp/x', 'nobody'],
        ['restore crew --to=/tmp/x', '--path'],
        ['restore crew --at=2026-10-02T12:00:00Z --path=tree --to=/tmp/x --gold-plated', 'gold-plated'],
        ['restore crew --at=2026-10-02T12:00:00Z --path=tree --to=/tmp/x --use=nowhere', 'nowhere'],
        ['resume 999999', '999999'],
        ['rights burn', 'take'],
        ['rights of nothing', 'nothing'],
        ['rights give store:near --may=read', '--group'],
        ['rights give store:near --group=piers --may=eat', 'eat'],
        ['rights give store:near --group=piers --role=auditor', 'approver'],
        ['rights person nobody@sorrelsound.example', 'nobody@'],
        ['salvage nobody', 'nobody'],
        ['trail burn', 'trail check'],
        ['schedule nobody --cron=1', 'nobody'],
        ['schedule crew --cron=61_*_*_*_*=full --store=near', 'cron'],
        ['schedule crew --cron=1_*_*_*_*=huge --store=near', 'huge'],
        ['server paint', 'server list'],
        ['server add', 'name'],
        ['server add x --host=127.0.0.1 --port=0', 'port'],
        ['set-aside 999999', '999999'],
        ['signs nobody', 'nobody'],
        ['sources nobody', 'nobody'],
        ['store-add ../x /tmp/x', 'letters, digits, dots'],
        ['store-add far /tmp/x --kind=cheese', 'cheese'],
        ['store-add far /no/such/parent/x', 'no/such/parent'],
        ['transactions nobody', 'nobody'],
        ['transactions crew', 'crew'],
    ];
    $cases = [];
    foreach ($lines as [$line, $said]) {
        $cases[$line] = [array_map(fn (string $word): string => strtr($word, '_', ' '), explode(' ', $line)), $said];
    }

    return $cases;
}

it('says of input that makes no sense what is wrong, and changes nothing', function (array $arguments, string $said): void {
    $desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'));
    $this->kaiseki('store-add', 'vault', $this->scratch()->path.'/tapes', '--kind=tape', '--cartridges=HV1', '--slots=1');
    $count = fn (): array => array_map(
        fn (string $model): int => $model::query()->count(),
        [BackupSet::class, Copy::class, Host::class, Run::class, Schedule::class, Store::class, Workload::class],
    );
    $before = $count();
    $answer = $this->kaiseki(...array_map(fn (string $word): string => str_replace('SET', $desk->set(0)->name, $word), $arguments));
    expect($answer->code)
        ->toBe(2, $answer->text)
        ->and(strtolower($answer->text))
        ->toContain(strtolower($said))
        ->and($answer->text)
        ->not->toContain('.php')
        ->not->toContain('SQLSTATE')
        ->not->toContain('Exception')
        ->and($count())
        ->toBe($before);
})->with(wrongInput());

it('has wrong input for every command', function (): void {
    $commands = array_filter(
        array_keys((new Kaiseki)->all()),
        fn (string $name): bool => ! in_array($name, ['help', 'list', 'completion', '_complete'], true),
    );
    $tried = array_unique(array_map(fn (array $case): string => $case[0][0], array_values(wrongInput())));
    expect(array_values(array_diff($commands, $tried)))->toBe([]);
});

it('answers in JSON also where the input makes no sense', function (): void {
    $answer = $this->kaiseki('plan', 'nobody', '--at=2026-10-02T12:00:00Z', '--json');
    expect($answer->code)->toBe(2)->and($answer->json()['error'])->toContain('nobody');
});
