<?php

declare(strict_types=1);

use Tests\Support\Instance;

// The pages about whether points can be trusted. They change the demo, so they come last.

it('mends a copy that is missing, and shows that it was read back', function (): void {
    // Which full never arrived depends on the day of the week on which the demo was made.
    $fulls = Instance::database()->query(
        "SELECT s.id, s.name FROM sets s JOIN workloads w ON w.id = s.workload_id WHERE w.name = 'boathouse-files' AND s.level = 'full' ".
            'ORDER BY s.instant DESC',
    )->fetchAll(PDO::FETCH_KEY_PAIR);
    $there = getenv('KAISEKI_BROWSER_HOME').'/stores/pier-nine/boathouse-files';
    [$set] = array_keys(array_filter($fulls, fn (string $name): bool => ! is_file("$there/$name.tar.gz")));
    $browser = $this->browser()
        ->signIn('ines@sorrelsound.example')
        ->visit("/sets/$set");
    $browser->waitForText('missing')->click('button[name=copy]')->waitForText('Mended, read back, and right on pier-nine');
    expect($browser->text())->not->toContain('missing')->toContain('every byte as it was written');
});

it('lets a person judge a point that is in doubt, and keeps why', function (): void {
    $set = (int) Instance::database()->query('SELECT set_id FROM signs WHERE doubts LIMIT 1')->fetchColumn();
    $browser = $this->browser()
        ->signIn('ines@sorrelsound.example')
        ->visit("/sets/$set");
    $browser
        ->waitForText('In doubt.')
        ->waitForText('.zzx')
        ->fill('#reason', 'It was a drill of the IT office.')
        ->click('button[value=good]')
        ->waitForText('Good, by the word of a person');
    $isStill = fn (): bool => str_contains($browser->visit('/estate')->text(), 'in doubt');
    expect(Instance::waitUntil(fn (): bool => ! $isStill()))->toBeTrue(); // somebody looks again, and the page shows that
    $browser
        ->visit("/sets/$set")
        ->fill('#reason', 'It was not.')
        ->click('button[value=none]')
        ->waitForText('In doubt.');
    expect(Instance::database()->query('SELECT COUNT(*) FROM verdicts')->fetchColumn())->toBe(2);
});

it('makes a set when asked, and says how far it is', function (): void {
    // The stand-in's clock stands still, and the demo's own schedule may just have made a set at that moment.
    file_put_contents(getenv('KAISEKI_BROWSER_HOME').'/hosts/boathouse-files/clock', gmdate('Y-m-d\TH:i:s\Z')."\n");
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/workloads/1/care');
    $browser->click('form[action$="/sets"] button')->waitForText('A set is being made')->waitForText('by hand');
    expect(
        Instance::waitUntil(
            fn (): bool => Instance::database()->query('SELECT state FROM makings ORDER BY id DESC LIMIT 1')->fetchColumn() === 'done',
        ),
    )->toBeTrue();
    $browser->visit('/workloads/1/care')->waitForText('made');
});

it('deletes what expires only after it was shown and confirmed', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/workloads/1/care');
    $before = (int) Instance::database()->query('SELECT COUNT(*) FROM copies')->fetchColumn();
    $browser->waitForText('What expires next')->script('document.querySelectorAll("details").forEach((d) => d.open = true)');
    $browser->click('form[action$="/expire"] button');
    // What was made just now may still be on its way to the other store: then it is read again, and confirmed.
    while (! str_contains($browser->text(), 'freed.')) {
        if (str_contains($browser->text(), 'changed since it was shown')) {
            $browser->visit('/workloads/1/care')->waitForText('What expires next');
            $browser->script('document.querySelectorAll("details").forEach((d) => d.open = true)');
            $browser->click('form[action$="/expire"] button');
        }
        usleep(200_000);
    }
    expect((int) Instance::database()->query('SELECT COUNT(*) FROM copies')->fetchColumn())->toBeLessThan($before);
    $browser->waitForText('Nothing.'); // by itself, as soon as it was looked at again
});
