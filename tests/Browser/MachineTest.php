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
    $browser->press('t')->waitForText('Bring these back');
    $browser->click('a[href$="folder=data"]')->waitFor('[data-tick]');
    $browser->click('[data-tick][aria-label="Pick plans"]')->waitForText('take out');
    $browser->press('p')->waitForText('With all that is in them');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    afterTheRun($browser->press("\u{E007}"));
    expect($browser->text())->toContain('brought back 42 files');
    // The other way, in the same request: both disks.
    $browser->press('t')->waitFor('button[name=drop]');
    $browser->click('button[name=drop]')->waitForText('the machine');
    $browser->visit('/requests/7?show=where')->click('#to-new-folder')->click('section.picker form button.btn-primary')
        ->waitForText('both disks');
    $browser->visit('/requests/7?show=how')->click('#format-vhdx')->click('section.picker form button.btn-primary');
    $browser->waitForText('as vhdx');
    $browser->visit('/requests/7?show=run')->waitForText('Nothing that is there now')->click('#confirm');
    $browser->waitForText('berth-planner.system.vhdx')->waitForText('1,280'); // blocks, once it is over
    expect($browser->complaints())->toBe([]);
    expect(glob("$home/restored/request-7*"))->toHaveCount(2);
});

it('brings a deleted machine back at its hypervisor, and rolls another back that an update broke, by keyboard', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/8?show=when')->waitForText('only the blocks that changed');
    $browser->press('h')->waitForText('The ways side by side');
    $browser->press('r')->waitForText('can be put back')->waitForFocus('#confirm');
    $text = afterTheRun($browser->press("\u{E007}"))->text();
    expect($text)->toMatch('~tide-board at boathouse-vm-1, [\d.]+ [KM]iB written~')->toContain('it answered with tide-board');

    $browser->visit('/requests/7?show=where')->click('#to-hypervisor')->click('section.picker form button.btn-primary')
        ->waitForText('At boathouse-vm-1')->waitForText('by what it answers');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    expect(afterTheRun($browser->press("\u{E007}"))->text())->toContain('it answered with berth-planner')
        ->and($browser->complaints())->toBe([]);
});

it('stands a copy up in an annex to try something on, drops it, and stands it up again and settles it', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/9?show=where')->click('#to-hypervisor')->click('section.picker form button.btn-primary')
        ->waitFor('#machine');
    $browser->press('h')->waitForText('The ways side by side')->click('input[value=stand-up]')
        ->click('form:has(input[value=stand-up]) button.btn-primary')->waitForText('stood up on its sets');
    $browser->press('d')->waitFor('input[name=annex]')->fill('#machine', 'crew-roster-try')->click('input[name=annex]')
        ->click('form:has(#machine) button.btn-primary')->waitForText('in an annex of its own');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    $text = afterTheRun($browser->press("\u{E007}"))->text();
    expect($text)->toContain('running off its sets')->toContain('it answered with crew-roster')->toContain('In its annex');
    $browser->fill('#inside-what', 'hostname')->fill('#inside-why', 'to try the upgrade')->click('#run-inside')
        ->waitForText('exit status 0')->click('#scan')->waitForText('files looked into, nothing left out,');
    $browser->visit('/?all=1')->waitForText('stands in an annex: release it, or drop it')->visit('/requests/9?show=proof');
    $browser->click('details:has(#do-put-back) summary')->waitForText('with all that it wrote')->click('#do-put-back')
        ->waitForText('It was put back');

    $browser->visit('/requests/9?show=where')->waitFor('input[name=annex]')->click('input[name=annex]')->click('input[name=new_mac]')
        ->click('form:has(#machine) button.btn-primary')->waitForText('crew-roster-try at boathouse-vm-2, and check');
    $browser->press('r')->waitForFocus('#confirm');
    afterTheRun($browser->press("\u{E007}"))->click('#settle')->waitForText('on its own storage');
    expect($browser->text())->toContain('that the machine has not written itself is as it was at the point')
        ->and($browser->complaints())->toBe([]);
});

it('puts files of a machine into one that is off, then has another stand in at another site, and go home', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/10?show=what')->click('a[href$="folder=data"]')->waitFor('[data-tick]');
    $browser->click('[data-tick][aria-label="Pick plans"]')->waitForText('take out');
    $browser->press('d')->waitFor('#to-machine')->click('#to-machine')->choose('#into', 'crew-roster at boathouse-vm-2, off');
    $browser->fill('#inside', '/data/asked for')->click('section.picker form button.btn-primary')
        ->waitForText('/data/asked for in crew-roster');
    $browser->press('r')->waitForText("That machine's disks are written to")->waitForFocus('#confirm');
    expect(afterTheRun($browser->press("\u{E007}"))->text())->toContain('files into crew-roster at boathouse-vm-2');
    $browser->click('details:has(#do-put-back) summary')->click('#do-put-back')->waitForText('It was put back');

    $browser->visit('/requests/11?show=where')->click('#to-hypervisor')->choose('#hypervisor', 'pier-nine-vm, pier-nine')
        ->click('section.picker form button.btn-primary')->waitForText('At pier-nine-vm');
    $browser->press('r')->waitForText('Nothing that is there now will be touched')->waitForFocus('#confirm');
    afterTheRun($browser->press("\u{E007}"))->click('input[name=home_is_down]')->click('#stand-in')->waitForText('sets are made of it');
    $browser->choose('#home-on', 'boathouse-vm-2, boathouse')->click('#go-home')->waitForText('is the original now');
    expect(afterTheRun($browser)->text())->toContain('it answered with slip-watch')->toContain('the one that stood in is off');
    $browser->click('input[name=sure]')->click('#accept-home')->waitForText('What stood in at pier-nine-vm is gone');
    expect($browser->complaints())->toBe([]);
})->group('deep');

it('drills a machine onto a blank one by keyboard, with nobody at it, and shows how long each step took', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit('/requests/8?show=where')->click('#to-blank')->waitFor('#settle');
    $browser->choose('#on', 'pier-nine-vm')->click('#settle')->waitForText('onto a blank machine at pier-nine-vm')
        ->waitForFocus('#then-drill');
    $browser->press("\u{E015}")->press("\u{E007}")->waitForText('leave it there as tide-board, off')->waitForFocus('#then-off');
    $browser->press("\u{E013}")->press("\u{E007}")->waitForText('Drill: bring tide-board')->waitForFocus('#then-drill');
    $browser->press("\u{E015}"); // something else than what is shown
    $browser->click('#order')->waitForText('This is not what was shown before')->waitForFocus('#then-off');
    $browser->press("\u{E013}")->press("\u{E007}")->waitForText('Drill: bring tide-board')->click('#order')
        ->waitForText('make a blank machine');
    for ($tries = 0; $tries < 1000 && ! str_contains($browser->text(), 'How long each step took'); $tries++) {
        usleep(300_000);
    }
    expect($browser->waitForText('How long each step took')->text())->toContain('all of it is right')
        ->toContain('it answered with tide-board')->toContain('nothing of it is left there')
        ->and($browser->complaints())->toBe([]);
});
