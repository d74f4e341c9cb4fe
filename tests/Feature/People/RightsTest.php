<?php

declare(strict_types=1);

use App\Models\Consent;
use App\Models\Host;
use App\Models\Right;
use App\Models\Role;
use App\Models\Store;
use App\Models\TargetRight;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use Tests\Support\Desk;

// Targets belong to groups; reading, writing and tending are given for each, by an administrator, who sees no content.

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('pay/salaries.csv', 'secret figures'), fn ($a) => $a->put('later', 'x'));
    $this->admin = $this->desk->person(Role::Administrator);
    $this->host = Host::query()->create(['name' => 'crew', 'kind' => 'folder', 'folder' => $this->desk->live, 'site' => 'boathouse']);
    $this->url = "/rights/host/{$this->host->id}";
    $this->trail = fn (): string => (string) TrailEntry::query()->latest('id')->value('what');
});

it('gives the operators of one group everything with a target that is made known', function (): void {
    $words = TargetRight::of($this->host)->get()->map(fn (TargetRight $rule): string => $rule->words());
    expect($words->all())->toBe(['operators of general: read, write, tend']);
    $this->host->delete();
    expect(TargetRight::of($this->host)->count())->toBe(0);
});

it('lets an administrator give and take, and tells who reaches what by which rule', function (): void {
    $piers = $this->desk->person(Role::Operator, ['piers']);
    $this->actingAs($this->admin)->get('/rights')->assertOk()->assertSee('operators of general: read, write, tend');
    $this->post($this->url, ['group' => 'piers', 'role' => 'operator', 'may' => ['read', 'write'], 'do' => 'give'])
        ->assertRedirect($this->url);
    expect(($this->trail)())->toBe('The operators of piers may do with the host crew: read, write.')
        ->and(PersonRights::of($piers)->rights($this->host))->toBe([Right::Read, Right::Write]);
    $this->get($this->url)->assertOk()->assertSee($piers->name)->assertSee('operators of piers: read, write');
    $this->get("/people/{$piers->id}")->assertOk()->assertSeeText('crew')->assertSee('operators of piers: read, write');
    $this->post($this->url, ['group' => 'piers', 'role' => 'operator', 'do' => 'take'])->assertRedirect();
    expect(PersonRights::of($piers)->rights($this->host))->toBe([]);
    foreach (TargetRight::of($this->host)->get() as $rule) {
        $this->post($this->url, ['group' => $rule->group, 'role' => $rule->role->value, 'do' => 'take']);
    }
    $this->get('/rights')->assertSee('nobody: it belongs to no group');
    $this->get($this->url)->assertSee('Nobody: no order can name it.');
});

it('refuses a rule that cannot be, and says why', function (array $said, string $field): void {
    $rules = TargetRight::query()->count();
    $this->actingAs($this->admin)->post($this->url, $said + ['group' => 'piers', 'role' => 'operator', 'do' => 'give'])
        ->assertSessionHasErrors($field);
    expect(TargetRight::query()->count())->toBe($rules);
})->with([
    'no group' => [['group' => ''], 'group'],
    'a group of signs' => [['group' => '../x'], 'group'],
    'a role that has none' => [['role' => 'auditor'], 'role'],
    'a right that is none' => [['may' => ['eat']], 'may.0'],
    'nothing to do' => [['do' => 'burn'], 'do'],
]);

it('asks a second person before somebody may do more where an original lies that is marked', function (): void {
    Workload::query()->update(['needs_approval' => true]);
    $approver = $this->desk->person(Role::Approver);
    $this->actingAs($this->admin)->post($this->url, ['group' => 'piers', 'role' => 'operator', 'may' => ['write'], 'do' => 'give'])
        ->assertSessionHas('told', fn (?string $told): bool => str_contains((string) $told, 'a second person must say yes'));
    expect(TargetRight::of($this->host)->where('group', 'piers')->count())->toBe(0);
    $consent = Consent::query()->sole();
    $this->get("/consents/{$consent->id}")->assertOk()->assertSee('Give the operators of piers on the host crew: write.');
    $this->post("/consents/{$consent->id}", Desk::yes("/consents/{$consent->id}"))->assertForbidden();
    $this->actingAs($approver)->post("/consents/{$consent->id}", Desk::yes("/consents/{$consent->id}"))->assertSessionHasNoErrors();
    expect(TargetRight::of($this->host)->where('group', 'piers')->sole()->rights())->toBe([Right::Write]);
    // To take something away asks nobody.
    $this->actingAs($this->admin)->post($this->url, ['group' => 'piers', 'role' => 'operator', 'do' => 'take'])->assertRedirect();
    expect(TargetRight::of($this->host)->where('group', 'piers')->count())->toBe(0);
});

it('shows an administrator no content, no request and no workload', function (): void {
    $this->actingAs($this->admin)->get('/')->assertRedirect('/rights');
    $pages = [
        '/estate', '/stores', '/activity', '/proofs', '/kinds', '/use', $this->desk->url,
        "/workloads/{$this->desk->request->workload_id}",
        "/sets/{$this->desk->set(0)->id}", "/sets/{$this->desk->set(0)->id}/file?path=tree/pay/salaries.csv", '/requests/new',
    ];
    foreach ($pages as $page) {
        $this->get($page)->assertForbidden();
    }
    $this->get('/search?q=salaries')->assertOk()->assertDontSee('salaries.csv')->assertDontSee('Something is gone');
    $this->get("/people/{$this->desk->operator->id}")->assertOk();
    $this->desk->request->update(['workload_id' => null]);
    $this->get($this->desk->url)->assertForbidden();
});

it('lets an administrator change what others are, not themselves, and keeps the last one', function (): void {
    $person = $this->desk->person(Role::Operator);
    $this->actingAs($this->admin)->post("/people/{$person->id}", ['role' => 'approver', 'sees' => 'some', 'groups' => ['piers']])
        ->assertRedirect("/people/{$person->id}");
    expect([$person->refresh()->role, $person->workload_groups])->toBe([Role::Approver, ['piers']])
        ->and(($this->trail)())->toContain($person->email)->toContain('role, workload_groups');
    $this->post("/people/{$this->admin->id}", ['role' => 'operator', 'sees' => 'all'])->assertSessionHasErrors('role');
    $other = $this->desk->person(Role::Administrator);
    $this->actingAs($other)->post("/people/{$this->admin->id}", ['role' => 'administrator', 'sees' => 'all', 'locked' => '1'])
        ->assertSessionHasNoErrors();
    expect($this->admin->refresh()->locked_at)->not->toBeNull();
    // Who is locked is not one who could, so that the other is the last.
    $this->admin->update(['locked_at' => null]);
    $this->actingAs($this->admin)->post("/people/{$other->id}", ['role' => 'operator', 'sees' => 'all'])->assertSessionHasNoErrors();
    expect($other->refresh()->role)->toBe(Role::Operator);
});

it('says and changes the same at the terminal', function (): void {
    $told = $this->kaiseki('rights', 'give', 'host:crew', '--group=piers', '--may=read,tend', '--json')->json();
    expect($told['may'])->toBe(['read', 'tend']);
    $person = $this->desk->person(Role::Operator, ['piers']);
    expect($this->kaiseki('rights', 'of', 'host:crew', '--json')->json()['people'])->toContain([
        'person' => $person->email, 'may' => 'read, tend', 'because' => 'operators of piers: read, tend',
    ]);
    expect($this->kaiseki('rights', 'person', $person->email, '--json')->json()['targets'])->toBe([[
        'target' => 'host:crew', 'where' => $this->desk->live, 'may' => 'read, tend', 'because' => 'operators of piers: read, tend',
    ]]);
    expect(array_column($this->kaiseki('rights', 'list', '--json')->json()['targets'], 'rules', 'target')['host:crew'])
        ->toBe(['operators of general: read, write, tend', 'operators of piers: read, tend']);
    $this->kaiseki('rights', 'take', 'host:crew', '--group=piers');
    expect(TargetRight::of($this->host)->where('group', 'piers')->count())->toBe(0)
        ->and(($this->trail)())->toBe('The operators of piers have nothing to do with the host crew any more.');
});

it('answers as a slow oracle does, for seeded people, rules and targets', function (int $seed): void {
    mt_srand($seed);
    $groups = ['piers', 'crew office', 'engine room'];
    $targets = [$this->host, ...Store::query()->get()];
    TargetRight::query()->delete();
    $rules = [];
    foreach ($targets as $target) {
        foreach ($groups as $group) {
            foreach (Role::withRights() as $role) {
                $rights = array_values(array_filter(Right::cases(), fn (): bool => mt_rand(0, 2) === 0));
                if (mt_rand(0, 1) === 1) {
                    TargetRight::give($target, $group, $role, $rights);
                    $rules[] = [$target, $group, $role, $rights];
                }
            }
        }
    }
    foreach (Role::cases() as $role) {
        foreach ([null, [], ['piers'], ['crew office', 'engine room']] as $seen) {
            $person = new User(['role' => $role, 'workload_groups' => $seen]);
            $of = PersonRights::of($person);
            foreach ($targets as $target) {
                foreach (Right::cases() as $right) {
                    $may = false;
                    foreach ($rules as [$on, $group, $whose, $rights]) {
                        $may = $may || ($on === $target && $whose === $role && in_array($right, $rights, true)
                            && ($seen === null || in_array($group, $seen, true)));
                    }
                    expect($of->may($right, $target))->toBe($may);
                    if ($target instanceof Store) {
                        expect($of->stores($right)->whereKey($target->id)->exists())->toBe($may);
                    }
                }
            }
        }
    }
})->with([1, 2, 3]);
