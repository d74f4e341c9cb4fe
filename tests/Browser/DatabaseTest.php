<?php

declare(strict_types=1);

use Tests\Support\Browser;

/** A question to the demo's fares server, through its socket. */
function fares(string $sql): string
{
    $server = new PDO('mysql:unix_socket='.getenv('KAISEKI_BROWSER_HOME').'/sql/fares.sock;dbname=fares', 'root', '', [
        PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
    ]);

    return (string) $server->query($sql)->fetchColumn();
}

/** A run, or its return, takes what it takes on a busy machine: the page tells itself when it is over. */
function whenTold(Browser $browser, string $text): Browser
{
    for ($tries = 0; $tries < 1000 && ! str_contains($browser->text(), $text); $tries++) {
        usleep(300_000);
    }

    return $browser->waitForText($text);
}

it('finds the statement without its WHERE, and brings its rows back into the live table', function (): void {
    expect(fares('SELECT COUNT(*) FROM tickets WHERE price > 0'))->toBeLessThan(1000);
    $later = fares('SELECT MAX(id) FROM tickets');
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/6?show=when')->waitForText('by a statement without a WHERE');
    $browser->press('h')->waitForText('The ways side by side');
    $browser->click('input[name=way][value=rows]')->click('section.picker form button.btn-primary');
    $browser->waitForText('Bring back the rows that transaction');
    $browser->visit('/requests/6?show=preview')->waitForText('Set back'); // looked at in full: it takes its time
    $browser->press('r')->waitForText('each compared first')->waitForFocus('#confirm');
    whenTold($browser->press("\u{E007}"), 'every foreign key of these tables points at a row');
    expect($browser->text())->toContain('Proven');
    expect((int) fares('SELECT COUNT(*) FROM tickets WHERE price > 0'))
        ->toBeGreaterThan(190_000)
        ->and(fares('SELECT MAX(id) FROM tickets'))
        ->toBe($later);
    expect($browser->complaints())->toBe([]);
    // And back, from the same page.
    whenTold($browser->click('details:last-of-type summary')->click('#do-put-back'), 'It was put back');
    expect((int) fares('SELECT COUNT(*) FROM tickets WHERE price > 0'))->toBeLessThan(1000);
});

it('stops right before a transaction, shows a table as it was, and restores it beside', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser
        ->visit('/requests/6?show=where')
        ->click('#in-place-0')
        ->fill('#schema', 'fares_then')
        ->click('section.picker button.btn-primary')
        ->waitForText('fares_then');
    $browser->press('w')->click('#before-culprit')->waitForText('It stops right before it.');
    $browser->press('t')->waitForText('Rows then');
    expect($browser->text())->toMatch('/tickets\s+19\d,\d{3}/');
    $browser->visit('/requests/6?show=what&table=fares.tickets&key=7777')->waitForText('now 0.00');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    whenTold($browser->press("\u{E007}"), 'views, triggers, routines, events and sequences');
    expect($browser->text())
        ->toContain('Proven')
        ->and((int) fares('SELECT COUNT(*) FROM fares_then.tickets WHERE price > 0'))
        ->toBeGreaterThan(190_000)
        ->and(
            fares("SELECT COUNT(*) FROM information_schema.views WHERE table_schema = 'fares_then' AND view_definition LIKE '%`fares`.%'"),
        )
        ->toBe('0');
    expect($browser->complaints())->toBe([]);
});

it('has nothing on these pages that a screen reader stumbles over', function (string $page): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit($page)->waitFor('#main');
    $browser->script((string) file_get_contents(__DIR__.'/../Support/axe.min.js'));
    $found = $browser->asyncScript(
        'axe.run(document, {runOnly: ["wcag2a", "wcag2aa"]}).then(r => arguments[arguments.length - 1](r.violations.map(v => v.id + ": " '.
            '+ v.nodes.map(n => n.html.slice(0, 160)).join(" | "))))',
    );
    expect($found)->toBe([]);
})->with([
    '/requests/6?show=when',
    '/requests/6?show=what',
    '/requests/6?show=what&table=fares.fares',
    '/requests/6?show=where',
    '/requests/6?show=how',
    '/requests/6?show=preview',
    '/requests/6?show=proof',
    '/workloads/4',
]);
