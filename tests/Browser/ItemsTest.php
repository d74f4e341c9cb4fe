<?php

declare(strict_types=1);

use Tests\Support\Instance;
use Tests\Support\Scratch;

// Mailboxes by the pages: a half-remembered message is found, looked at and brought back; what a hostile one tries does not happen.

it('finds a message that was thrown away, shows it, and brings it back to its mailbox', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/?all=1');
    $page = $browser->script(
        'return [...document.querySelectorAll("a")].find((a) => a.textContent.includes("offer for the dry dock")).getAttribute("href")',
    );
    $browser->visit("$page?show=what")->click('#look-for-lost')->waitForText('gone since');
    $browser->script('[...document.querySelectorAll("[data-row]")].find((a) => a.textContent.includes("Dry dock in March")).click()');
    $browser->waitForText('Where it lay')->waitForText('1 picture from elsewhere is not shown');
    $frame = $browser->script('const f = document.querySelector("iframe"); return [f.getAttribute("sandbox"), f.getAttribute("src")]');
    expect($frame[0])->toBe('')->and($frame[1])->toContain('/letter');
    $browser->has('#pick-only') && $browser->click('#pick-only');
    $browser->waitForText('It is picked');
    $browser->visit("$page?show=where")->waitForText('nothing of it lies there');
    $browser->visit("$page?show=run")->click('#confirm')->waitForText('all of it is right');
    $run = (string) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn();

    // Once more: it lies there, and is left; then it is taken away again.
    $browser->visit("$page?show=run")->click('#confirm')->waitForText('Lay there already');
    $back = Instance::kaiseki('put-back', $run, '--json');
    expect([$back->code, $back->json()['removed'] ?? $back->text])->toBe([0, 1])->and($browser->complaints())->toBe([]);
});

it('picks a whole mailbox, and says what to do where its account is gone', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/?all=1');
    $page = $browser->script(
        'return [...document.querySelectorAll("a")].find((a) => a.textContent.includes("Bram Nyland left")).getAttribute("href")',
    );
    $browser->visit("$page?show=what")->waitForText('Pick the whole mailbox')->click('.box[open] button[value=mailbox]')
        ->waitForText('the whole mailbox bram@sorrelsound.example');
    $browser->visit("$page?show=where")->waitForText('choose another mailbox, or take files');
    $browser->click('#to-files')->choose('#form',
        'Maildir, with flags; appointments and contacts one by one')->click('main form[action$="/items"] button.btn-primary')
        ->waitForText('a new folder of files, Maildir');
    $browser->visit("$page?show=run")->click('#confirm')->waitForText('all of it is right');
    expect($browser->complaints())->toBe([]);
});

it('brings one day of a series back as it was, without the rest of it, and puts that back', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/?all=1');
    $page = $browser->script(
        'return [...document.querySelectorAll("a")].find((a) => a.textContent.includes("Winter timetable with")).getAttribute("href")',
    );
    $browser->visit("$page?show=what")->click('#look-for-lost')->waitForText('changed since');
    $browser->click('[data-row]')->waitForText('What the newest state says otherwise')->waitForText('Gull Ness');
    $browser->has('#pick-day') && $browser->click('#pick-day');
    $browser->waitForText('This day is picked, without the rest of its series.');
    $browser->visit("$page?show=run")->waitForText('only that day is changed')->click('#confirm')->waitForText('all of it is right');
    $run = (string) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn();
    $source = Instance::kaiseki('find', 'crew-mail', 'kind:appointment subject:timetable mailbox:harbour', '--json')->json()['items'];
    expect(array_column($source, 'exceptions'))->toContain(1);
    $back = Instance::kaiseki('put-back', $run, '--json');
    expect([$back->code, $back->json()['returned'] ?? $back->text])->toBe([0, 1])->and($browser->complaints())->toBe([]);
});

it('parts two contacts that were merged, and sets aside what they became', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/?all=1');
    $page = $browser->script(
        'return [...document.querySelectorAll("a")].find((a) => a.textContent.includes("Two contacts of the purser")).getAttribute("href")',
    );
    foreach (['Arrieta', 'Arriaga'] as $number => $name) {
        $browser->visit("$page?show=what&ever=1&q=".rawurlencode("kind:contact subject:$name is:gone"))->waitForText('Contacts/people');
        $browser->click('[data-row]')->waitForText('All keys')->waitFor('#pick-only');
        $browser->script('const b = document.querySelectorAll("[name=pick]"); b[arguments[0] === 0 ? 0 : b.length - 1].click()', $number);
        $browser->waitForText('It is picked');
    }
    $browser->visit("$page?show=how")->click('#if-replace')->click('main form[action$="/items"] button.btn-primary')
        ->waitForText('in place of what says something else there now');
    $browser->visit("$page?show=run")->waitForText('set aside and replaced')->click('#confirm')->waitForText('2 contacts');
    $browser->waitForText('all of it is right')->waitForText('1 thing that it replaced');
    $run = (string) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn();
    $back = Instance::kaiseki('put-back', $run, '--json')->json();
    expect([$back['removed'], $back['returned']])->toBe([1, 1])->and($browser->complaints())->toBe([]);
});

it('has nothing on these pages that a screen reader stumbles over', function (string $page): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit($page)->waitFor('main');
    if (str_contains($page, 'q=')) {
        $browser->script('document.querySelector("[data-row]").click()');
        $browser->waitForText('Where it lay');
    }
    $browser->script((string) file_get_contents(__DIR__.'/../Support/axe.min.js'));
    $found = $browser->asyncScript(
        'axe.run(document, {runOnly: ["wcag2a", "wcag2aa"]}).then(r => arguments[arguments.length - 1](r.violations.map(v => v.id + ": " '.
            '+ v.nodes.map(n => n.html.slice(0, 160)).join(" | "))))',
    );
    expect($found)->toBe([]);
})->with([
    '/requests/12?show=what',
    '/requests/14?show=what&ever=1&q='.rawurlencode('kind:appointment winter timetable pilots'),
    '/requests/15?show=what&ever=1&q='.rawurlencode('kind:contact subject:arrieta'),
    '/requests/14?show=where',
    '/requests/14?show=how',
    '/requests/14?show=preview',
]);

it('lets nothing of a hostile message run, leave, or cover the page', function (): void {
    $scratch = new Scratch;
    $name = 'hostile-'.bin2hex(random_bytes(3));
    $tricks = [
        '<script>top.document.title="ran"; fetch("http://127.0.0.1:9/x")</script>', '<img src=x onerror="top.document.title=\'ran\'">',
        '<svg onload="top.document.title=\'ran\'"><animate onbegin=alert(1)></svg>',
        '<iframe src="javascript:top.document.title=1"></iframe>',
        '<a href="javascript:top.document.title=1" id=x>click</a>',
        '<form action="http://127.0.0.1:9/steal"><input name=q autofocus></form>',
        '<img src="http://127.0.0.1:9/pixel.png"><link rel=stylesheet href="http://127.0.0.1:9/x.css">',
        '<style>@import "//127.0.0.1:9/y";</style>',
        '<div style="position:fixed;inset:0;background:url(http://127.0.0.1:9/z)">covers</div>', '<base href="http://127.0.0.1:9/">',
        '<meta http-equiv="refresh" content="0;url=http://127.0.0.1:9/gone">',
        '<object data="http://127.0.0.1:9/o"></object><embed src=//127.0.0.1:9/e>',
        '<video src="http://127.0.0.1:9/v" autoplay></video><math><mtext><img src=x onerror=alert(1)></mtext></math>',
        '<p>the end of it</p>',
    ];
    try {
        $head = "From: \"<script>alert(1)</script>\" <x@evil.example>\r\nTo: a@sorrel.example\r\nMIME-Version: 1.0\r\n";
        $scratch->file('src/mail/victim/Maildir/cur/1790000000.M1.h:2,', $head.
            "Subject: <img src=x onerror=alert(1)> invoice\r\nMessage-ID: <h1@evil.example>\r\n".
            "Content-Type: text/html; charset=utf-8\r\n\r\n".
            implode("\n", $tricks));
        $archives = $scratch->folder('archives');
        $scratch->run(
            'tar', '-czf', "$archives/$name.full.20261001T020000Z.tar.gz", '--format=posix',
            "--listed-incremental={$scratch->path}/snar", '-C', "{$scratch->path}/src", 'mail',
        );
        expect(Instance::kaiseki('adopt', $archives, "--as=$name", '--kind=items')->code)->toBe(0);
        $item = Instance::kaiseki('find', $name, 'invoice', '--json')->json()['items'][0]['id'];
        $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/new')->fill('#summary', "Hostile $name")
            ->fill('#reason', 'It is tried.')->fill('#wanted_at', '2026-10-01 12:00');
        $browser->choose('#workload', $name);
        $browser->script('document.querySelector("main form button.btn-primary").click()');
        $browser->waitForText("Hostile $name");
        $request = (string) preg_replace('~^.*/requests/(\d+).*$~', '$1', $browser->url());
        $browser->visit("/requests/$request?show=what&item=$item")->waitFor('iframe.letter-page');
        $browser->asyncScript('const done = arguments[arguments.length - 1]; const frame = document.querySelector("iframe");'.
            'frame.addEventListener("load", () => setTimeout(done, 300)); frame.src = frame.src;');
        $asked = array_filter($browser->requested(), fn (string $url): bool => preg_match('~:9/|evil|pixel~', $url) === 1);
        expect(array_values($asked))->toBe([])
            ->and($browser->script('return document.title'))->not->toContain('ran');
        $letter = $browser->asyncScript(
            'const done = arguments[arguments.length - 1]; fetch(document.querySelector("iframe").src).then((r) => r.text()'.
            '.then((text) => done([r.headers.get("Content-Security-Policy"), text])));',
        );
        expect($letter[0])->toContain('sandbox')->toContain("default-src 'none'")
            ->and($letter[1])->toContain('the end of it');
        $body = (string) preg_replace('~^.*<body>~s', '', $letter[1]);
        $left = '~<(script|iframe|form|input|svg|video|object|embed|link|base|meta|math)|on\w+=|javascript:|127\.0\.0\.1|position~i';
        expect(preg_match($left, $body, $found))->toBe(0, implode(' ', $found).' in '.$body);
    } finally {
        $scratch->remove();
    }
});

it('lets a person bring back what is gone from their own mailbox, by keyboard, and take it away again', function (): void {
    $browser = $this->browser()->signIn('oona@sorrelsound.example')->visit('/own')->waitForText('Gone from it');
    $gone = $browser->script('return document.querySelector("[data-row]").textContent');
    $browser->waitForFocus('#own-query')->press("\u{E00C}")->script('document.querySelector("[data-tick]").focus()');
    $browser->press(' ')->script('document.querySelector("#bring-ticked").focus()');
    $browser->press("\n")->waitForText('Only what is missing')->waitForText($gone)->waitForFocus('#bring')->press("\n")
        ->waitForText('all of it was found right')->waitForText('Of what was picked, there now');
    $run = (int) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn();
    expect($browser->text())->not->toContain('Last good');

    // Nobody else's is theirs.
    expect($browser->complaints())->toBe([]);
    $workload = (int) Instance::database()->query("SELECT id FROM workloads WHERE name = 'crew-mail'")->fetchColumn();
    expect($browser->visit("/own/$workload?mailbox=bram@sorrelsound.example")->text())->not->toContain('Gone from it');
    expect(implode("\n", $browser->complaints()))->toContain('403 (Forbidden)'); // and no more of it for the tests to come

    $request = (int) Instance::database()->query("SELECT request_id FROM runs WHERE id = $run")->fetchColumn();
    $browser->visit("/requests/$request")->click('details:has(#put-back) summary')->click('#put-back')
        ->waitForText('It was taken away again.');
    expect(Instance::database()->query("SELECT put_back_at IS NOT NULL FROM runs WHERE id = $run")->fetchColumn())->toEqual(1);
    expect($browser->complaints())->toBe([]);
});
