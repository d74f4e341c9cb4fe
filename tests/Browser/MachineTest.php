<?php

declare(strict_types=1);

use Tests\Support\Browser;

/** A run takes what it takes on a busy machine: the page tells itself when it is over. */
function afterTheRun(Browser $browser): Browser
{
    for ($tries = 0; $tries < 1000 && ! str_contains($browser->text(), 'all of it is right'); $tries++) {
        usleep(300_000);
    }

    return $browser->waitForText('all of it is right');
}

it('looks into a deleted machine, brings one folder out of it, then its disks as images', function (): void {
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/7?show=when')->waitForText('The newest good point')->waitFor('svg.chart');
    $browser->press('t')->waitForText('Write these as images');
    $browser->click('a[href$="folder=data"]')->waitFor('[data-tick]');
    $browser->click('[data-tick][aria-label="Pick plans"]')->waitForText('take out');
    $browser->press('p')->waitForText('With all that is in them');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    afterTheRun($browser->press("\u{E007}"));
    expect($browser->text())->toContain('brought back 42 files');
    // The other way, in the same request: both disks.
    $browser->press('t')->waitFor('button[name=drop]');
    $browser->click('button[name=drop]')->waitForText('both disks');
    $browser->visit('/requests/7?show=how')->click('#format-vhdx')->click('section.picker form button.btn-primary');
    $browser->waitForText('as vhdx');
    $browser->visit('/requests/7?show=run')->waitForText('Nothing that is there now')->click('#confirm');
    $browser->waitForText('berth-planner.system.vhdx');
    expect($browser->text())->toContain('1,024')
        ->and($browser->complaints())->toBe([]);
    expect(glob("$home/restored/request-7*"))->toHaveCount(2);
});
