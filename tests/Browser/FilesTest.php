<?php

declare(strict_types=1);

use Tests\Support\Instance;

// The pages that say what, where, and what it would do; and the second person. Each test leaves the demo's files as they were.

function filesHost(string $below): string
{
    return getenv('KAISEKI_BROWSER_HOME')."/hosts/boathouse-files/files/$below";
}

/** @param  array<string, mixed>  $said */
function request4(array $said): void
{
    $document = json_encode(['kind' => 'files', 'version' => 1, 'said' => $said]);
    Instance::database()
        ->prepare('UPDATE requests SET said = ?, set_id = NULL, starts_at = NULL WHERE id = 4')
        ->execute([$document]);
}

it('finds by a part of a name and by words, and picks what it found', function (): void {
    request4([]);
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/4?show=what')->waitForText('Search in it');
    $browser->click('#by-find')->waitFor('#find-name')->fill('#find-name', 'crew.csv')->press("\u{E007}")->waitForText('week-44-crew.csv');
    $browser->click('button[value=found]')->waitForText('picked.')->waitForText('files,');
    expect($browser->text())->toContain('take all out');
    // The words in the demo's files were taken up when it was made.
    $browser->visit('/search?text=starboard&q=*.csv')->waitForText('/engine-room/');
    expect($browser->text())->toContain('starboard');
});

it('narrows a folder while a name is typed, and sorts it', function (): void {
    $browser = $this->browser()
        ->signIn('ines@sorrelsound.example')
        ->visit('/requests/2?show=what&folder=engine-room')
        ->waitForText('Dunlin/');
    $browser->press('f')->waitForFocus('#begins');
    $browser->element('#begins')->sendKeys('pl');
    $browser->waitForText('Plover/');
    expect(Instance::waitUntil(fn (): bool => ! str_contains($browser->text(), 'Whimbrel/')))->toBeTrue();
    $browser->visit('/requests/2?show=what&folder=engine-room')->waitForText('Whimbrel/')->click('#sort-size')->waitForText('Size ↓');
});

it('shows the life of a file, compares two versions of it, and picks one for a request', function (): void {
    request4([]);
    $path = 'handbooks/safety/chapter-04.txt';
    $browser = $this->browser()
        ->signIn('ines@sorrelsound.example')
        ->visit("/workloads/1/versions?path=$path")
        ->waitForText('versions in');
    expect($browser->has('svg.life rect.version'))->toBeTrue();
    $browser->script(
        'document.querySelectorAll("input[name=old]").forEach((i, n, all) => i.checked = n === all.length - 1); '.
            'document.querySelectorAll("input[name=new]").forEach((i, n) => i.checked = n === 0);',
    );
    $browser->click('form[action$="/compare"] button')->waitForText('Left: as of');
    $browser
        ->visit("/workloads/1/versions?path=$path&request=4")
        ->click('form[action="/requests/4/version"] button')
        ->waitForText('The order line has this version');
    expect($browser->text())->toContain('1 file,');
    $browser->visit("/sets/40/look?path=$path")->waitFor('pre.seen');
});

it('waits for the second person, who sees what it does; and everything can be put back', function (): void {
    $database = Instance::database();
    $database->exec('UPDATE workloads SET needs_approval = 1 WHERE id = 1');
    request4(['selection' => ['crew%2Fcontacts.csv'], 'destination' => 'own-place', 'conflict' => 'replace-all']);
    $before = [
        hash_file('sha256', filesHost('crew/contacts.csv')),
        filemtime(filesHost('crew/contacts.csv')),
        filemtime(filesHost('crew')),
    ];
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/4')->waitForText('Request 4');
    $browser
        ->press('p')
        ->waitForText('replaced, the present one set aside')
        ->press('r')
        ->waitForText('waits for a second person')
        ->waitForFocus('#confirm');
    $browser->script('document.querySelector("input[name=set_first]").checked = false');
    $browser->press("\u{E007}")->waitForText('nobody has answered yet');

    $browser
        ->signIn('petra@sorrelsound.example')
        ->visit('/')
        ->waitForText('Waits for you')
        ->press('j')
        ->press("\u{E007}")
        ->waitForText('To be approved');
    $browser->click('button[value=approve]')->waitForText('Approved');
    expect(
        Instance::waitUntil(
            fn (): bool => Instance::database()
                ->query('SELECT state FROM runs WHERE request_id = 4 ORDER BY id DESC LIMIT 1')
                ->fetchColumn() === 'done',
        ),
    )->toBeTrue();

    $browser->signIn('ines@sorrelsound.example')->visit('/requests/4?show=proof')->waitForText('Approved by');
    expect($browser->text())->toContain('Petra Lund')->toContain('Set aside');
    $browser->script('document.querySelectorAll("details").forEach((d) => d.open = true)');
    // Undoing it changes what is marked as well: the second person is asked again.
    $browser->click('#do-put-back')->waitForText('a second person must say yes first');
    $browser->signIn('petra@sorrelsound.example')->visit('/?all=1')->waitForText('Waits for you');
    $browser->click('a[id^=consent-]')->waitForText('what it replaced comes back');
    $browser->click('button[value=approve]')->waitForText('It is being put back');
    $browser->signIn('ines@sorrelsound.example')->visit('/requests/4?show=proof')->waitForText('It was put back');
    clearstatcache(true);
    expect([
        hash_file('sha256', filesHost('crew/contacts.csv')),
        filemtime(filesHost('crew/contacts.csv')),
        filemtime(filesHost('crew')),
    ])->toBe($before);
    $database->exec('UPDATE workloads SET needs_approval = 0 WHERE id = 1');
    $database->exec("UPDATE requests SET state = 'open' WHERE id = 4");
    request4([]);
});

it('chooses another host and a folder of it by looking, and a download', function (): void {
    request4(['selection' => ['crew%2Fcontacts.csv']]);
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/4?show=where')->waitForText('Folders there');
    $browser->click('.folders a[id^=look-]')->waitForText('Folders of');
    $browser->visit('/requests/4?show=where')->waitFor('#folder-0')->click('#folder-0')->waitForText('rosters/');
    $browser->script('document.querySelector("main form[action$=\"/destination\"] button.btn-primary").click()');
    $browser->waitForText('the folder /');
    $browser
        ->click('#to-download-tar')
        ->click('main form[action$="/destination"] button.btn-primary')
        ->waitForText('a download (tar.gz)')
        ->press('r')
        ->waitForFocus('#confirm');
    $browser->press("\u{E007}")->waitForText('Download 1 file');
    // Fetched by the page's own session.
    $bytes = $browser->asyncScript(
        'const done = arguments[arguments.length - 1]; fetch(document.querySelector("#download").href).then((r) => '.
            'r.arrayBuffer()).then((b) => done(b.byteLength));',
    );
    expect($bytes)->toBeGreaterThan(500);
    $browser->visit('/requests/4?show=proof')->waitForText('all of it is right');
    Instance::database()->exec("UPDATE requests SET state = 'open' WHERE id = 4");
    request4([]);
});

it('finds in the bin of the host what was never gone, and gives it back', function (): void {
    $browser = $this->browser()
        ->signIn('ines@sorrelsound.example')
        ->visit('/requests/5?show=what')
        ->waitForText('lies in the bin of the host');
    $browser
        ->visit('/requests/5?show=what&by=bin')
        ->waitForText('back to its place')
        ->click('form[action$="/bin"] button')
        ->waitForText('was taken out of the bin');
    $path = Instance::database()->query('SELECT lost FROM requests WHERE id = 5')->fetchColumn();
    expect(is_file(filesHost(ltrim((string) $path, '/'))))->toBeTrue();
});

it('gives the chart room its permissions back, alone, by keyboard, and takes them back', function (): void {
    $minutes = dirname(filesHost(''), 2).'/chart-room/files/Minutes of the masters';
    $mode = function () use ($minutes): int {
        clearstatcache(true);

        return fileperms("$minutes/October.md") & 07777;
    };
    $number = (int) Instance::database()->query("SELECT id FROM requests WHERE lost = '/Minutes of the masters'")->fetchColumn();
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit("/requests/$number")->waitForText('4 files');
    $browser->press('h')->waitForText('only its permissions')->click('#comes-permissions')->click('form[action$="/how"] .btn-primary');
    $browser->waitForText('What is in them stays as it is.')->press('p')->waitForText('group:staff:r-- comes');
    expect($browser->text())->toContain('rw-rw-rw- becomes rw-r-----')->toContain('No archive needs to be read.')
        ->and($mode())->toBe(0666);
    $browser->press('r')->waitForText('Yes, run it now')->click('input[name=set_first]')->click('form[action$="/run"] .btn-primary');
    $browser->waitForText('ended: 5 things got the permissions of then, all right.');
    expect($mode())->toBe(0640);
    $browser->visit("/requests/$number?show=proof")->waitFor('#do-put-back');
    $browser->script('document.querySelectorAll("details").forEach((d) => d.open = true)');
    $browser->click('#do-put-back')->waitForText('5 things got back the permissions of before');
    expect($mode())->toBe(0666);
});
