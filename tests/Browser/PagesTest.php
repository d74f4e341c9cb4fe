<?php

declare(strict_types=1);

const PAGES = [
    '/',
    '/estate',
    '/stores',
    '/proofs',
    '/agents',
    '/search?q=roster',
    '/requests/new',
    '/requests/2?show=when',
    '/requests/2?show=what&folder=engine-room',
    '/requests/2?show=where',
    '/requests/2?show=how',
    '/requests/2?show=preview',
    '/requests/2?show=run',
    '/requests/1?show=proof',
    '/workloads/1',
    '/workloads/2',
    '/workloads/1/care',
    '/workloads/2/care',
    '/sets/1',
    '/sets/21',
    '/sets/43',
    '/stores/hill-vault/cartridges/HV0002',
    '/requests/4?show=when&days=400',
    '/requests/2?show=what&by=find&q=csv',
    '/requests/2?show=what&by=list',
    '/requests/2?show=what&by=changes',
    '/requests/5?show=what&by=bin',
    '/workloads/1/versions?path=handbooks/safety/chapter-04.txt',
    '/workloads/1/versions?path=crew/rosters/2026/week-44-crew.csv',
    '/search?text=starboard',
    '/sets/40/look?path=notices/today.txt',
    '/sets/40/look?path=crew/contacts.csv',
];

it('has no serious finding by axe-core', function (string $page): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->visit($page)->waitFor('main');
    $browser->script((string) file_get_contents(__DIR__.'/../Support/axe.min.js'));
    $findings = $browser->asyncScript(
        'const done = arguments[arguments.length - 1]; axe.run().then((r) => done(r.violations.filter((v) => ["serious", '.
            '"critical"].includes(v.impact)).map((v) => v.id + ": " + v.nodes.map((n) => n.html).slice(0, 3).join(" | "))));',
    );
    expect($findings)->toBe([]);
})->with(PAGES);

it('has no serious finding by axe-core where one signs in', function (): void {
    $browser = $this->freshBrowser()->visit('/sign-in')->waitFor('#email');
    $browser->script((string) file_get_contents(__DIR__.'/../Support/axe.min.js'));
    $findings = $browser->asyncScript(
        'const done = arguments[arguments.length - 1]; axe.run().then((r) => done(r.violations.filter((v) => ["serious", '.
            '"critical"].includes(v.impact)).map((v) => v.id)));',
    );
    expect($findings)->toBe([]);
});

it('asks no address outside the machine for anything, and nothing breaks its Content-Security-Policy', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example');
    $browser->requested();
    $browser->complaints();
    foreach (PAGES as $page) {
        $browser->visit($page)->waitFor('main');
    }
    $asked = $browser->requested();
    expect($asked)->not->toBe([]);
    foreach ($asked as $address) {
        expect(str_starts_with($address, $browser->address.'/') || str_starts_with($address, 'data:'))->toBeTrue($address);
    }
    expect($browser->complaints())->toBe([]);
});

it('lets the policy stop a script that stands in a page', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/');
    $browser->complaints();
    $browser->script('const s = document.createElement("script"); s.textContent = "window.ran = true"; document.body.append(s);');
    expect($browser->script('return window.ran === true'))->toBeFalse();
    expect(implode("\n", $browser->complaints()))->toContain('Content Security Policy');
});
