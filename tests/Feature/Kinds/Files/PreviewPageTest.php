<?php

declare(strict_types=1);

use Tests\Support\Desk;

it('counts and folds what stays as it is, and lists it when asked', function (): void {
    $desk = new Desk($this, fn ($a) => $a->put('notes/roster', 'good')->put('notes/plan', 'same'), fn ($a) => $a->put('x', 'y'));
    foreach (['roster' => 'spoilt', 'plan' => 'same', 'mine' => 'new since', 'mine-too' => 'x'] as $name => $text) {
        $this->scratch()->file("hosts/crew/files/tree/notes/$name", $text);
    }
    $desk->into('own-place', ['tree/notes'], 'replace');
    $page = "/requests/{$desk->request->id}?show=preview";
    $this->actingAs($desk->operator)
        ->get($page)
        ->assertOk()
        ->assertSee('are not listed')
        ->assertSee('roster')
        ->assertDontSee('mine-too');
    $this->get("$page&deed=all")->assertSee('mine-too')->assertDontSee('are not listed');
    $this->get("$page&deed=left-alone")->assertSee('mine-too')->assertDontSee('spoilt');
    $this->get($page)->assertDontSee('in nothing but permissions');
    copy("{$desk->archives->source}/notes/plan", "{$desk->live}/tree/notes/plan");
    touch("{$desk->live}/tree/notes/plan", (int) filemtime("{$desk->archives->source}/notes/plan"));
    chmod("{$desk->live}/tree/notes/plan", 0777);
    $this->get($page)->assertSee('1 thing differs in nothing but permissions')->assertSee('show=how', false);
    $this->get("$page&of=PLAN&deed=all")->assertSee('notes/plan')->assertDontSee('mine-too');
});
