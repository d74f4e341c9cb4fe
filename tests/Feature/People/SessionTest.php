<?php

declare(strict_types=1);

use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;

// How long somebody is signed in, where, and when the password is asked for again (OWASP ASVS 5.0, V7; NIST SP 800-63B, 4.2.3).

beforeEach(function (): void {
    config(['session.lifetime' => 60]);
    $this->person = User::query()->create([
        'name' => 'Runa Holt',
        'email' => 'runa@sorrelsound.example',
        'role' => Role::Administrator,
        'password' => 'tide-table-9',
        'zone' => 'UTC',
    ]);
    $this->in = fn (): TestResponse => $this->post('/sign-in', ['email' => $this->person->email, 'password' => 'tide-table-9']);
    $this->change = fn (User $other): TestResponse => $this->from("/people/{$other->id}")->post("/people/{$other->id}", [
        'role' => 'auditor',
        'sees' => 'all',
    ]);
});

it('ends a session that nobody uses, also while its page asks by itself how things stand', function (): void {
    ($this->in)();
    $this->travel(40)->minutes();
    $this->get('/rights', ['X-By-Itself' => '1'])->assertOk();
    $this->travel(15)->minutes();
    $this->get('/rights')->assertOk(); // somebody is at it
    $this->travel(50)->minutes();
    $this->get('/rights', ['X-By-Itself' => '1'])->assertOk();
    $this->travel(11)->minutes();
    $this->get('/rights', ['X-By-Itself' => '1'])->assertRedirect('/sign-in');
    $this->assertGuest();
    expect(TrailEntry::query()->latest('id')->value('what'))->toContain('was not used for a while');
});

it('ends a session that has lasted its hours, whatever is done meanwhile', function (): void {
    config(['session.lifetime' => 1000]);
    ($this->in)()->assertRedirect('/');
    $this->travel(11)->hours();
    $this->get('/rights')->assertOk();
    $this->travel(61)->minutes();
    $this->get('/rights')->assertRedirect('/sign-in');
    $this->assertGuest();
    expect(TrailEntry::query()->latest('id')->value('what'))->toContain('had lasted its hours');
    ($this->in)()->assertRedirect('/rights'); // where they were
    $this->get('/rights')->assertOk();
});

it('asks for the password again before what gives rights, and does nothing until then', function (): void {
    $other = $this->person
        ->replicate()
        ->fill(['email' => 'sven@sorrelsound.example', 'password' => 'tide-table-9', 'role' => Role::Operator]);
    $other->save();
    ($this->in)();
    ($this->change)($other)
        ->assertRedirect("/people/{$other->id}")
        ->assertSessionHasNoErrors();
    expect($other->refresh()->role)->toBe(Role::Auditor);
    $other->update(['role' => Role::Operator]);
    $this->travel(31)->minutes();
    ($this->change)($other)->assertRedirect('/password');
    expect($other->refresh()->role)->toBe(Role::Operator);
    $this->get('/password')->assertOk()->assertSee('Nothing was done yet');
    $this->from('/password')
        ->post('/password', ['password' => 'not this'])
        ->assertRedirect('/password')
        ->assertSessionHasErrors('password');
    expect(TrailEntry::query()->latest('id')->first()?->result)->toBe('refused');
    $this->post('/password', ['password' => 'tide-table-9'])->assertRedirect("/people/{$other->id}");
    expect($other->refresh()->role)->toBe(Role::Operator);
    ($this->change)($other)->assertSessionHasNoErrors();
    expect($other->refresh()->role)->toBe(Role::Auditor);
});

it('lets nobody try passwords there either', function (): void {
    ($this->in)();
    for ($try = 1; $try <= 5; $try++) {
        $this->post('/password', ['password' => "wrong $try"])->assertSessionHasErrors(['password' => 'That is not your password.']);
    }
    $this->post('/password', ['password' => 'tide-table-9'])->assertSessionHasErrors('password');
    $this->travel(61)->seconds();
    $this->post('/password', ['password' => 'tide-table-9'])->assertSessionHasNoErrors();
});

it('lists where one is signed in, and ends one or all others, and nobody else\'s', function (): void {
    $stranger = $this->person->replicate()->fill(['email' => 'sven@sorrelsound.example', 'password' => 'tide-table-9']);
    $stranger->save();
    $row = fn (string $id, User $whose, string $agent): array => [
        'id' => $id,
        'user_id' => $whose->id,
        'ip_address' => '10.0.0.7',
        'user_agent' => $agent,
        'payload' => '',
        'last_activity' => time() - 60,
    ];
    DB::table('sessions')->insert([
        $row('of-mine-1', $this->person, '<b>Tab</b> one'),
        $row('of-mine-2', $this->person, 'Tab two'),
        $row('of-theirs', $stranger, 'Tab three'),
        ['last_activity' => time() - 7200] + $row('of-mine-old', $this->person, 'Tab four'),
    ]);
    $this->actingAs($this->person);
    $page = $this->get('/sessions')
        ->assertOk()
        ->assertSee('&lt;b&gt;Tab&lt;/b&gt; one', false)
        ->assertSee('Tab two')
        ->assertDontSee('Tab three')
        ->assertDontSee('Tab four')
        ->assertDontSee('of-mine-1');
    preg_match_all('/name="session"\s+value="([0-9a-f]{16})"/', (string) $page->getContent(), $names);
    expect($names[1])->toHaveCount(2);
    $this->post('/sessions', ['session' => substr(hash('sha256', 'of-theirs'), 0, 16)])->assertSessionHas('told', 'There was none to end.');
    $this->post('/sessions', ['session' => substr(hash('sha256', 'of-mine-1'), 0, 16)])->assertSessionHas('told', 'Ended: 1.');
    expect(DB::table('sessions')->where('id', 'like', 'of-%')->orderBy('id')->pluck('id')->all())->toBe([
        'of-mine-2',
        'of-mine-old',
        'of-theirs',
    ]);
    $this->post('/sessions')->assertSessionHasNoErrors();
    expect(DB::table('sessions')->where('id', 'like', 'of-%')->pluck('id')->all())->toBe(['of-theirs']);
});

it('says over TLS, and only there, that it is to be asked for over TLS', function (): void {
    expect($this->get('http://localhost/sign-in')->headers->get('Strict-Transport-Security'))
        ->toBeNull()
        ->and($this->get('https://localhost/sign-in')->headers->get('Strict-Transport-Security'))
        ->toBe('max-age=31536000');
});
