<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;
use Tests\Support\Scratch;

// A machine that sends its sets itself, by the pages: its file is made, it becomes known, a set is made of it, and it is revoked.

it('takes up a machine by the pages, has a set made of it, and lets it go', function (): void {
    $scratch = new Scratch;
    $name = 'console-'.bin2hex(random_bytes(3));
    $line = trim((string) file_get_contents(Instance::home().'/metal'));
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/estate')->waitForText('Machines that send their sets');
    $browser->click('a[href="/agents"]')->waitFor('#new-agent')->fill('#name', $name)->fill('#desk', $line)->fill('#group', 'crew office');
    $script = $browser->asyncScript(
        'const done = arguments[arguments.length - 1]; const form = document.querySelector("#new-agent");'.
        'fetch(form.action, {method: "POST", body: new FormData(form)}).then((r) => '.
        'r.text().then((text) => done([r.headers.get("Content-Disposition"), text])));',
    );
    expect($script[0])->toContain("kaiseki-agent-$name.sh");
    $file = $scratch->file('agent.sh', $script[1]);
    $scratch->file('machine/srv/berths', 'nine');
    $environment = [
        'KAISEKI_AGENT_ROOT' => $scratch->at('machine'),
        'KAISEKI_AGENT_ETC' => $scratch->at('machine/etc/kaiseki-agent'),
        'KAISEKI_AGENT_STATE' => $scratch->at('machine/var/lib/kaiseki-agent'),
        'KAISEKI_AGENT_PAUSE' => '0.3',
    ];
    $browser->visit('/agents')->waitForText('waits for its machine');
    $said = (new Process(['sh', $file, 'install'], null, $environment))->mustRun()->getOutput();
    preg_match('/the same two words: (\w+ \w+)/', $said, $words);
    $agent = new Process(['sh', $file, 'run'], null, $environment, null, null);
    $agent->start();
    try {
        $browser->visit('/agents')->waitForText($words[1])->waitForText('none yet');
        $workload = $browser->script('return [...document.querySelectorAll("a[data-row]")].find((a) => a.textContent === arguments[0])'.
            '.getAttribute("href")', $name);
        $browser->visit("$workload/care")->waitForText('Making sets')->click('form[action$="/sets"] button');
        $made = fn (): bool => str_contains($browser->visit("$workload/care")->text(), 'made');
        expect(Instance::waitUntil($made))->toBeTrue($browser->text());
        $browser->visit($workload)->waitForText('It is the machine');
        $browser->visit('/agents')->script('document.querySelectorAll("details").forEach((one) => one.open = true)');
        $number = array_column(Instance::kaiseki('agent', 'list', '--json')->json()['agents'], 'agent', 'workload')[$name];
        $browser->click("#revoke-$number")->waitForText('Nothing is taken from that machine any more')->waitForText('revoked it');
        expect($browser->complaints())->toBe([]);
    } finally {
        $agent->stop(2);
        $scratch->remove();
    }
});
