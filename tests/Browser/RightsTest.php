<?php

declare(strict_types=1);

use Tests\Support\Instance;

it('lets an administrator give a right, by keyboard, and tells an auditor that it was given', function (): void {
    $browser = $this->browser()->signIn('runa@sorrelsound.example')->visit('/')->waitForText('Who may reach what');
    expect($browser->text())->not->toContain('Estate');
    $vault = (int) Instance::database()->query("SELECT id FROM stores WHERE name = 'hill-vault'")->fetchColumn();
    $browser->visit("/rights/store/$vault")->waitForText('Tomas Reed');
    expect($browser->text())->not->toContain('Petra Lund');
    $browser->fill('#group', 'crew office')->click('#role option[value=approver]')->click('form.mt-3 input[value=tend]');
    $browser->press("\n")->waitForText('The approvers of crew office may do with the store hill-vault: tend.')->waitForText('Petra Lund');
    $browser->press("\u{E003}")->waitForText('Who may reach what'); // Backspace
    $browser->signIn('sven@sorrelsound.example')->visit('/trail?of=approvers')
        ->waitForText('The approvers of crew office may do with the store hill-vault: tend.');
    expect($browser->text())->toContain('runa@sorrelsound.example');
    $browser->visit("/rights/store/$vault")->waitForText('Petra Lund');
    expect($browser->has('form.mt-3'))->toBeFalse();
    $browser->signIn('runa@sorrelsound.example')->visit("/rights/store/$vault")->click('tr:first-child button[value=take]')
        ->waitForText('have nothing to do with the store hill-vault any more.');
    expect($browser->complaints())->toBe([]);
});

it('shows where one is signed in, and asks for the password again when it was given long ago', function (): void {
    $browser = $this->browser()->signIn('petra@sorrelsound.example')->visit('/sessions')->waitForText('this one');
    expect($browser->text())->toContain('127.0.0.1')->toContain('60 minutes after its last request');
    $browser->visit('/password')->waitForFocus('#password')->fill('#password', 'not this one')->press("\n")
        ->waitForText('That is not your password.');
    $browser->fill('#password', 'tide-table-9')->press("\n")->waitForText('press it again');
    expect($browser->complaints())->toBe([]);
});
