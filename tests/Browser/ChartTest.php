<?php

declare(strict_types=1);

use Tests\Support\Browser;

/** The span that the chart shows, in days, and its middle. */
function shown(Browser $browser): array
{
    $from = (int) $browser->script('return Number(document.querySelector("[data-chart]").dataset.from)');
    $to = (int) $browser->script('return Number(document.querySelector("[data-chart]").dataset.to)');

    return [round(($to - $from) / 86400, 2), intdiv($from + $to, 2)];
}

/** Waits until the chart shows something else than before. */
function untilMoved(Browser $browser, array $before): array
{
    for ($tries = 0; $tries < 200 && shown($browser) === $before; $tries++) {
        usleep(50_000);
    }
    expect(shown($browser))->not->toBe($before);

    return shown($browser);
}

it('zooms and moves the chart by keys, by the wheel and by dragging, and the address keeps it', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/2?show=when')->waitFor('[data-chart]');
    $start = shown($browser);
    $browser->press('-');
    $wide = untilMoved($browser, $start);
    expect($wide[0])->toBe($start[0] * 2);
    $browser->press('+');
    $near = untilMoved($browser, $wide);
    expect($near[0])->toBe($start[0]);
    $browser->press('[');
    $earlier = untilMoved($browser, $near);
    expect($earlier[1])->toBeLessThan($near[1])->and($browser->url())->toContain('mid=');
    $browser->press('0');
    untilMoved($browser, $earlier);
    $browser->script(
        'const c = document.querySelector("[data-chart]"); const b = c.getBoundingClientRect(); c.dispatchEvent(new WheelEvent("wheel", '.
            '{bubbles: true, cancelable: true, deltaY: 200, clientX: b.left + b.width / 2, clientY: b.top + 60}));',
    );
    $wheeled = untilMoved($browser, $start);
    expect($wheeled[0])->toBeGreaterThan($start[0]);
    $browser->drag('[data-chart]', 150, -300, -60);
    $dragged = untilMoved($browser, $wheeled);
    expect($dragged[1])->toBeLessThan($wheeled[1])->and($dragged[0])->toBe($wheeled[0]);
    expect($browser->visit(substr($browser->url(), 0))->waitFor('[data-chart]') && shown($browser) === $dragged)->toBeTrue();
});

it('walks the posts with the arrow keys, shows their rows, and takes one with Enter', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/2?show=when')->waitFor('[data-chart]');
    $browser->script('document.querySelector(".post.chosen").focus()');
    $browser->press("\u{E012}"); // the arrow to the left
    $row = $browser->script('return [document.activeElement.dataset.post, document.querySelector("tr.at-post").dataset.ofPost]');
    expect($row[0])->toBe($row[1]);
    $browser->press("\u{E007}")->waitForText('your choice');
    $browser->click('#proposed-again')->waitForText('chosen: newest good one');
});

it('takes the wanted moment in words, says how it took them, and lets it be dragged and nudged', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/2?show=when')->waitFor('#wanted_at');
    $before = $browser->script('return document.querySelector("#wanted_at").value');
    $browser->fill('#wanted_at', "yesterday evening\n")->waitForText('"yesterday evening" is taken as');
    expect($browser->script('return document.querySelector("#wanted_at").value'))->toContain('22:00');
    $browser->fill('#wanted_at', "the day the music died\n")->waitForText('could not be read as a moment');
    $browser->visit('/requests/2?show=when')->waitFor('[data-wanted]');
    $now = fn (): string => (string) $browser->script('return document.querySelector("#wanted_at").value');
    $was = $now();
    $browser->script('document.querySelector("[data-wanted]").focus()');
    $browser->press("\u{E012}");
    // The field has the moment in UTC while the page is asked for, and in the zone of whoever looks when it is drawn.
    $drawn = function (string $before) use ($now): string {
        for ($tries = 0; $tries < 200 && ($now() === $before || str_ends_with($now(), '+00:00')); $tries++) {
            usleep(50_000);
        }

        return $now();
    };
    $nudged = $drawn($was);
    expect($nudged)->not->toBe($was);
    $browser->waitFor('[data-wanted]');
    $browser->drag('[data-wanted] .handle', -120);
    expect($drawn($nudged))->not->toBe($nudged);
    $browser->fill('#wanted_at', "$before\n")->waitFor('[data-chart]');
});

it('waits for a cartridge from the shelf, and goes on when its arrival is recorded', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/4?show=what')->waitForText('these are the nearest');
    $browser->click('.picked button')->waitForText('take out');
    $browser->visit('/requests/4?show=how')->waitFor('#copies');
    foreach (['pier-nine', 'pier-nine-objects'] as $store) {
        if ($browser->has("input[aria-label='$store: not from here']")) {
            $browser->click("input[aria-label='$store: not from here']");
        }
    }
    // On some days one has to be fetched before that already: what is waited for is what was settled.
    $browser->click('form[action$="/copies"] button')->waitForText('settled by hand')->waitForText('To fetch from the shelf: ');
    // Which they are, and how many, depends on the day of the week on which the demo was made.
    preg_match('/To fetch from the shelf: (HV\d+(?:, HV\d+)*)/', $browser->text(), $shelf);
    $browser->visit('/requests/4?show=run')->click('#confirm');
    foreach (explode(', ', $shelf[1]) as $label) {
        $browser->waitForText("Record the arrival of $label")->click("a[href$='/cartridges/$label']")->waitForText('for run');
        $browser->click('button[value=arrived]')->waitForText('in slot')->visit('/requests/4?show=proof');
    }
    $browser->visit('/requests/4?show=proof')->waitForText('and all of it is right');
    expect($browser->text())->toContain('from hill-vault')->toContain('told before');
});
