<?php

declare(strict_types=1);

use Tests\Support\Instance;

/** What axe-core finds serious on the page that is open. */
function seriousFindings(object $browser): array
{
    $browser->script((string) file_get_contents(__DIR__.'/../Support/axe.min.js'));

    return (array) $browser->asyncScript(<<<'JS'
        const done = arguments[arguments.length - 1];
        axe.run().then((found) => done(found.violations.filter((one) => ["serious", "critical"].includes(one.impact))
            .map((one) => one.id + ": " + one.nodes.map((node) => node.html).slice(0, 3).join(" | "))));
        JS);
}

it('has less kept of a marked workload only when two people say so', function (): void {
    Instance::database()->exec('UPDATE workloads SET needs_approval = 1 WHERE id = 2');
    $rule = fn (): string|false => Instance::database()->query('SELECT rule FROM keep_rules WHERE workload_id = 2')->fetchColumn();
    try {
        $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/workloads/2/care')->waitFor('#rule');
        $browser->script('document.querySelector("#rule").value = "last=3"');
        $browser->click('form[action$="/rules"] button')->waitForText('a second person must say yes');
        expect($rule())->toBeFalse();
        $browser->visit('/?all=1')->click('a[id^=consent-]')->waitForText('somebody else must decide');
        $browser->signIn('petra@sorrelsound.example')->visit('/?all=1')->waitForText('Waits for you')
            ->click('a[id^=consent-]')->waitForText('Yes, do it');
        expect($browser->text())->toContain('last=3 (now: everything)')->and(seriousFindings($browser))->toBe([]);
        $browser->click('button[value=approve]')->waitForText('The rule is settled');
        expect($rule())->toBe('last=3');
    } finally {
        Instance::database()->exec('UPDATE workloads SET needs_approval = 0 WHERE id = 2');
        Instance::database()->exec('DELETE FROM keep_rules WHERE workload_id = 2');
    }
});

it('tells who only asked how it stands, and lets them answer', function (): void {
    $browser = $this->browser()->signIn('milo@sorrelsound.example')->visit('/')->waitForText('Open requests');
    expect($browser->text())->not->toContain('Estate')->not->toContain('Stores')->not->toContain('Running now');
    $browser->goDownTo('request-2')->press("\u{E007}")->waitForText('All engine-room logs of the Dunlin')->waitForText('Last good');
    expect($browser->text())->not->toContain('Reading list')->and(seriousFindings($browser))->toBe([]);
    foreach (['/estate', '/workloads/1', '/stores', '/proofs'] as $page) {
        $browser->visit($page)->waitForText('Not for you');
    }
});
