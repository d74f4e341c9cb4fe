<?php

declare(strict_types=1);

use Tests\Support\Instance;

// Whatever takes over 300 ms shows that it is at work, and a key that is pressed meanwhile is not lost.

it('shows that it is at work while an answer is waited for, and takes a key that is pressed meanwhile', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/requests/2?show=when')->waitFor('svg.chart');
    expect($browser->has('#at-work:not([hidden])'))->toBeFalse();
    $browser->slowDown(2000);
    try {
        $browser->press('t')->waitFor('#at-work:not([hidden])');
        $browser->script('document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "d", bubbles: true}))');
        $browser->waitForText('Look around'); // that of the first key, before that of the second
        $browser->waitFor('#to-folder')->waitFor('#at-work[hidden]');
        expect($browser->url())->toContain('show=where');
    } finally {
        $browser->slowDown(0);
    }
    expect($browser->complaints())->toBe([]);
});

it('sends a plain form once, however often it is clicked, and shows that it is at work', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/estate')->waitFor('form[action="/look-again"]');
    $browser->slowDown(1500);
    try {
        $browser->script(
            'sessionStorage.sent = 0; sessionStorage.shown = 0;'.
                'window.addEventListener("submit", (e) => { if (!e.defaultPrevented) sessionStorage.sent++; });'.
                'new MutationObserver(() => sessionStorage.shown++).observe(document.querySelector("#at-work"), {attributes: true});'.
                'const button = document.querySelector("form[action=\'/look-again\'] button");'.
                'button.click(); setTimeout(() => button.click(), 50); setTimeout(() => button.click(), 100);',
        );
        $sent = fn (): bool => $browser->has('#at-work[hidden]') && $browser->script('return sessionStorage.shown') !== '0';
        expect(Instance::waitUntil($sent))->toBeTrue(); // the browser answers again when the next page is there
    } finally {
        $browser->slowDown(0);
    }
    expect($browser->script('return sessionStorage.sent'))->toBe('1')->and($browser->complaints())->toBe([]);
});

it('does not say that it is at work for what a page asks for by itself', function (): void {
    $browser = $this->browser()->signIn('ines@sorrelsound.example')->visit('/estate')->waitForText('Estate');
    $browser->script(
        'const row = document.createElement("div"); row.innerHTML = '.
            '"<p id=polling hx-get=/estate hx-select=#none hx-swap=none hx-trigger=\'every 500ms\'></p>";'.
            'document.querySelector("#main").append(row); htmx.process(row); window.asked = 0;'.
            'document.addEventListener("htmx:beforeRequest", () => window.asked++);'.
            'window.shown = 0;'.
            'new MutationObserver(() => window.shown++).observe(document.querySelector("#at-work"), {attributes: true});',
    );
    $browser->slowDown(700);
    try {
        $asked = fn (): bool => $browser->script('return window.asked') >= 2;
        expect(Instance::waitUntil($asked))->toBeTrue();
        expect($browser->script('return window.shown'))->toBe(0);
    } finally {
        $browser->slowDown(0);
    }
});
