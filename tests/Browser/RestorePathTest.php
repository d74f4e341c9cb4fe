<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Browser;
use Tests\Support\Instance;

/** The application's own files, as the stand-in host and the demo left them. */
function hostPath(string $below = ''): string
{
    return getenv('KAISEKI_BROWSER_HOME').'/hosts/boathouse-files'.($below === '' ? '' : "/$below");
}

it('brings a roster back from the desk to the proof with the keyboard alone', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/')->waitForText('crew roster');
    $browser->goDownTo('request-1')->press("\u{E007}")->waitForText('Request 1')->waitForText('1 file,');
    $browser->press('w')->waitForText('newest good point');
    $browser->press('t')->waitForText('Picked already');
    $browser->press('x')->waitForText('something not picked yet')->waitForText('Asked for, and there');
    // To the suggested path with Tab, and Enter to pick it.
    for ($tabs = 0; $tabs < 200 && ! $browser->script('return document.activeElement.closest(".picked") !== null'); $tabs++) {
        $browser->press("\t");
    }
    $browser->press("\u{E007}")->waitForText('1 file,');
    $browser->press('p')->waitForText('What happens');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    $browser->press("\u{E007}")->waitForText('and all of it is right');
    expect($browser->text())->toContain('Proven')->toContain('passed');

    $restored = hostPath('restored/request-1');
    $found = glob("$restored/crew/rosters/*/*.csv");
    expect($found)->toHaveCount(1);
    expect(filesize($found[0]))->toBeGreaterThan(1000);
    // The roster that people see is still the empty one: nothing was overwritten.
    expect(filesize(hostPath('files/'.substr($found[0], strlen($restored) + 1))))->toBe(0);

    // The manifest satisfies b2sum itself.
    $run = preg_replace('/\D/', '', (string) $browser->script('return document.querySelector("a[href$=manifest]").getAttribute("href")'));
    $manifest = getenv('KAISEKI_BROWSER_HOME')."/runs/$run/manifest.b2sum";
    (new Process(['b2sum', '--length=256', '--check', '--strict', $manifest], $restored))->mustRun();

    // The requester says yes, and the request closes.
    $browser->signIn('oona@sorrelsound.example')->visit('/requests/1')->waitForText('Is it right?');
    $browser->click('button[value=yes]')->waitForText('closed');
    expect($browser->visit('/')->waitForText('Closed lately')->text())->toContain('crew roster');
});

it('browses by keyboard: down, into a folder, up, and picks with the space bar', function (): void {
    Instance::database()->exec('UPDATE requests SET said = NULL WHERE id = 2');
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/2?show=what')->waitForText('engine-room/')->waitForText('Picked already');
    $browser->press('x')->waitForText('something not picked yet')->waitFor('[data-row]');
    $browser->press('j')->press('j')->press("\u{E007}");
    $browser->waitFor('.crumbs strong')->waitForText('Dunlin/');
    $browser->press('j')->press(' ')->waitFor('tr.chosen');
    expect($browser->text())->toContain('/engine-room/Dunlin');
    $browser->press('u')->waitForText('sailings/');
    expect($browser->url())->not->toContain('engine-room');
    $browser->press('?')->waitFor('#keys[open]');
});

it('shows why newer points were passed over, and takes another point by hand', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/3?show=when')->waitFor('svg.chart');
    $row = $browser->element('tr.chosen + tr');
    $browser->script('arguments[0].querySelector("button").click()', $row);
    $browser->waitForText('your choice');
    $browser->click('#proposed-again')->waitForText('chosen: newest good one');
    expect($browser->text())->not->toContain('your choice');
});

it('guesses what a path from another system means', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $text = $browser->visit('/requests/3?show=what')->waitForText('these are the nearest')->text();
    expect($text)->toContain('/handbooks/safety/chapter-04.txt');
});

it('works without any script, as plain forms', function (): void {
    $browser = Browser::start($this->browser()->address, false);
    $browser->signIn('ines@sorrelsound.example');
    expect($browser->url())->toBe('/');
    Instance::database()->exec('UPDATE requests SET said = NULL WHERE id = 2');
    $browser->visit('/requests/2?show=what&folder=engine-room');
    $browser->click('form[action$="/selection"] .btn')->waitForText('Take this folder out');
    $browser
        ->visit('/requests/2?show=where')
        ->click('#to-folder')
        ->fill('#folder', '/notices')
        ->click('main form[action$="/destination"] button');
    $browser->waitForText('the folder /notices');
    $browser->visit('/requests/2?show=run')->waitForText('Yes, run it now');
    $browser->quit();
});

it('answers each of the other requests of the demo with the keyboard alone', function (int $request, string $words, string $path): void {
    // As the demo left it, whatever was tried with it before.
    Instance::database()->exec("UPDATE requests SET said = NULL, set_id = NULL WHERE id = $request");
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/')->waitForText($words);
    $browser->goDownTo("request-$request")->press("\u{E007}")->waitForText("Request $request");
    $browser->press('t')->waitFor('.picked button');
    $isPicked = str_contains($browser->text(), 'Picked already');
    expect($isPicked)->toBe($request === 2); // the other names it as another system does
    for (
        $tabs = 0;
        ! $isPicked &&
        $tabs < 200 &&
        ! $browser->script(
            'return document.activeElement.closest(".picked")?.textContent.includes(arguments[0]) && '.
                'document.activeElement.textContent.trim() === arguments[0]',
            $path,
        );
        $tabs++
    ) {
        $browser->press("\t");
    }
    $isPicked || $browser->press("\u{E007}");
    $browser->waitForText('take out');
    $browser->press('p')->waitFor('#key-when')->press('r')->waitForFocus('#confirm');
    $browser->press("\u{E007}")->waitForText('and all of it is right');
    expect($browser->text())->toContain('Proven');
})->with([[2, 'engine-room logs of the Dunlin', '/engine-room/Dunlin'], [3, 'safety handbook', '/handbooks/safety/chapter-04.txt']]);
