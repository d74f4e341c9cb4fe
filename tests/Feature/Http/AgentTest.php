<?php

declare(strict_types=1);

use App\Agents\Agent;
use App\Agents\AgentOrder;
use App\Kinds\Kinds;
use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Sets\CannotRegister;
use Kaiseki\Core\Chain\Level;
use Symfony\Component\Process\Process;

// Machines that send their sets themselves: their page, the file that it gives, and the line on which they ask.

beforeEach(function (): void {
    $this->operator = $this->person(Role::Operator);
    /** What a machine asks over the line: status and body. */
    $this->line = function (string $method, string $path, string $body = '', string $token = ''): array {
        $said = ['HTTP_X_KAISEKI_TOKEN' => $token, 'KAISEKI_METAL' => 'on', 'CONTENT_TYPE' => 'application/octet-stream'];
        $answer = $this->call($method, "/agent/$path", [], [], [], $said, $body);

        return [$answer->getStatusCode(), (string) $answer->getContent()];
    };
    $this->make = function (string $name = 'gate', ?string $group = null): array {
        $said = ['name' => $name, 'desk' => 'desk.sorrelsound.example:13480', 'group' => $group];
        $script = (string) $this->post('/agents', $said)->assertOk()->getContent();
        preg_match("/^code='([^']+)'$/m", $script, $m);

        return [$m[1], $script];
    };
    $this->known = function (string $name = 'gate'): array {
        [$code] = ($this->make)($name);
        [, $body] = ($this->line)('POST', 'enrol', "$code\nhost gate-7\nsystem Linux 6.1 x86_64\nversion 1\n");

        return [Agent::query()->latest('id')->first(), explode("\n", $body)[0]];
    };
});

it('gives a file that makes a machine known, once, and shows it then', function (): void {
    $this->actingAs($this->operator)->get('/agents')->assertOk()->assertSee('No machine has an agent yet');
    [$code, $script] = ($this->make)();
    $path = $this->scratch()->file('agent.sh', $script);
    expect((new Process(['dash', '-n', $path]))->run())->toBe(0)
        ->and($script)->toContain("desk='desk.sorrelsound.example:13480'")->toContain('BEGIN CERTIFICATE')->not->toContain('@LINE@')
        ->and(Workload::query()->where('name', 'gate')->value('group'))->toBe('general');
    $this->get('/agents')->assertSee('waits for its machine')->assertDontSee($code);
    [$status, $body] = ($this->line)('POST', 'enrol', "$code\nhost <b>gate</b>\nsystem Linux\nversion 1\nother x\n");
    [$token, $words] = explode("\n", $body);
    expect($status)->toBe(200)->and(Agent::holding($token)?->host)->toBe('<b>gate</b>');
    $this->get('/agents')->assertSee($words)->assertSee('asks for work')->assertSee('<b>gate</b>')->assertDontSee('<b>gate</b>', false);
    expect(($this->line)('POST', 'enrol', "$code\nhost other\n")[0])->toBe(403)
        ->and(TrailEntry::query()->where('what', 'like', 'A machine made itself known from%agent%gate.')->count())->toBe(1);
    $this->get('/workloads/'.Workload::query()->where('name', 'gate')->value('id').'/care')->assertOk();
});

it('ends a code that was tried wrongly three times', function (): void {
    $this->actingAs($this->operator);
    [$code] = ($this->make)();
    $wrong = explode('-', $code)[0].'-apple-apple-apple-apple';
    foreach (range(1, 3) as $try) {
        expect(($this->line)('POST', 'enrol', "$wrong\n")[0])->toBe(403);
    }
    expect(($this->line)('POST', 'enrol', "$code\n")[0])->toBe(403)->and(Agent::query()->sole()->state())->toContain('wrong code');
});

it('is there by no other line, and for nobody without a token', function (): void {
    expect($this->get('/agent/orders')->getStatusCode())->toBe(404)
        ->and(($this->line)('GET', 'orders')[0])->toBe(410)
        ->and(($this->line)('GET', 'orders', '', str_repeat('0', 64))[0])->toBe(410)
        ->and(($this->line)('POST', 'piece/1/0', 'x', 'guessed')[0])->toBe(410);
});

it('hands orders over once, and pieces in their order, no more than are read', function (): void {
    $this->actingAs($this->operator);
    [$agent, $token] = ($this->known)();
    expect(($this->line)('GET', 'orders', '', $token)[0])->toBe(204);
    $order = AgentOrder::give($agent, AgentOrder::CONTENTS, [3, 1]);
    [, $text] = ($this->line)('GET', 'orders', '', $token);
    expect(substr($text, 64))->toBe("kaiseki-agent-1 {$agent->token} 1 contents ".hash('sha256', "3\n1\n")."\n")
        ->and(($this->line)('GET', 'wanted/1', '', $token))->toBe([200, "3\n1\n"])
        ->and(($this->line)('GET', 'wanted/2', '', $token)[0])->toBe(409);
    $packed = (string) gzencode(str_repeat('content ', 10_000));
    $pieces = str_split($packed, intdiv(strlen($packed), 4) + 1);
    expect(($this->line)('POST', 'piece/1/1', $pieces[1], $token)[0])->toBe(409);
    foreach ($pieces as $number => $piece) {
        expect(($this->line)('POST', "piece/1/$number", $piece, $token)[0])->toBe(200)
            ->and(($this->line)('POST', "piece/1/$number", 'again', $token)[0])->toBe(200);
    }
    foreach ([4, 5] as $number) {
        ($this->line)('POST', "piece/1/$number", 'more', $token);
    }
    expect(($this->line)('POST', 'piece/1/6', 'too much', $token)[0])->toBe(503)
        ->and(($this->line)('POST', 'piece/1/6', str_repeat('x', (8 << 20) + 1), $token)[0])->toBe(409)
        ->and($order->stream()->read(80_000))->toBe(str_repeat('content ', 10_000));
    expect(($this->line)('POST', 'done/1', "tar: one\n\n", $token)[0])->toBe(200)->and($order->remarks())->toBe(['tar: one'])
        ->and(($this->line)('GET', 'orders', '', $token)[0])->toBe(204)
        ->and(($this->line)('POST', 'done/1', 'again', $token)[0])->toBe(409);
    $order->withdraw();
    expect(($this->line)('GET', 'alive/1', '', $token)[0])->toBe(409)
        ->and(AgentOrder::give($agent, AgentOrder::LIST)->isNumbered(2))->toBeTrue();
});

it('makes nothing of what a machine says is worth nothing, however well it came', function (): void {
    $this->actingAs($this->operator);
    [$agent, $token] = ($this->known)();
    $order = AgentOrder::give($agent, AgentOrder::CONTENTS, [1]);
    ($this->line)('POST', 'piece/1/0', (string) gzencode('zeros'), $token);
    ($this->line)('POST', 'done/1', "tar: it went on\nunusable A snapshot was full before all was read.\n", $token);
    $stream = $order->stream();
    expect(fn () => $stream->read(10))->toThrow(CannotRegister::class, 'gate could not be read: A snapshot was full before all was read.');
});

it('waits for a machine no longer than it may be silent, and for none that was revoked', function (): void {
    $this->actingAs($this->operator);
    [$agent] = ($this->known)();
    $order = AgentOrder::give($agent, AgentOrder::LIST);
    $agent->update(['seen_at' => now()->subMinutes(10)]);
    expect(fn () => $order->remarks())->toThrow(CannotRegister::class, 'has not been heard of since');
    $this->get('/agents')->assertSee('is silent');
    $this->post("/agents/{$agent->id}")->assertRedirect('/agents');
    expect(fn () => $order->piece(0))->toThrow(CannotRegister::class, 'revoked it');
    $this->get('/agents')->assertSee("{$this->operator->name} revoked it");
});

it('lets a machine that was made anew take the place of the old one, which writes nothing any more', function (): void {
    $this->actingAs($this->operator);
    [$old, $token] = ($this->known)();
    [$new] = ($this->known)();
    expect(Agent::of($new->workload)?->id)->toBe($new->id)->and($old->refresh()->state())->toContain("agent {$new->id} took its place")
        ->and(($this->line)('GET', 'orders', '', $token)[0])->toBe(410);
});

it('makes files only for what somebody may protect', function (): void {
    $limited = $this->person(Role::Operator, ['crew office']);
    $this->actingAs($limited);
    $post = fn (array $said) => $this->post('/agents', $said + ['name' => 'gate', 'desk' => 'desk:1', 'group' => 'crew office']);
    $post(['group' => 'piers'])->assertSessionHasErrors('group');
    $post(['group' => ''])->assertSessionHasErrors('group');
    $post(['desk' => 'no address'])->assertSessionHasErrors('agent');
    $post(['name' => '$(reboot)'])->assertSessionHasErrors('agent');
    $post(['name' => ''])->assertSessionHasErrors('name');
    Workload::query()->create(['name' => 'theirs', 'kind' => 'files', 'group' => 'piers']);
    Workload::query()->create(['name' => 'folder', 'kind' => 'files', 'group' => 'crew office', 'source' => '/srv']);
    Workload::query()->create(['name' => 'ketch', 'kind' => 'machine', 'group' => 'crew office']);
    foreach (['theirs', 'folder', 'ketch'] as $name) {
        $post(['name' => $name])->assertSessionHasErrors('agent');
    }
    expect(Agent::query()->count())->toBe(0);
    $post([])->assertOk();
    expect(Agent::query()->sole()->workload->group)->toBe('crew office');
    $other = $this->person(Role::Operator, ['piers']);
    $this->actingAs($other)->get('/agents')->assertDontSee('waits for its machine');
    $this->post('/agents/'.Agent::query()->value('id'))->assertForbidden();
});

it('is a source like any other, but for commands, which lie on the machine', function (): void {
    $this->actingAs($this->operator);
    [$agent] = ($this->known)();
    $source = Kinds::of($agent->workload)->source($agent->workload);
    expect($source->isKnown())->toBeTrue()->and($source->isGone())->toBeFalse()
        ->and($source->levels())->toHaveKeys(['full', 'incr', 'diff'])
        ->and($source->makes(Level::of('log')))->toBeFalse()->and($source->place()?->place)->toBe('gate-7');
    $this->get("/workloads/{$agent->workload_id}")->assertOk()->assertSee(['It is the machine', 'by its agent, which asks for work']);
    $refused = $this->told(2, 'protect', 'gate', '--level=full', '--before=["true"]');
    expect($refused['error'])->toContain('/etc/kaiseki-agent/before and after');
    // It takes that of its machine only: nothing is read here, and one that is silent is told at once.
    $agent->update(['seen_at' => now()->subMinutes(10)]);
    expect($this->told(3, 'protect', 'gate', '--level=full')['error'])->toContain('has not been heard of since');
    expect($agent->workload->sets()->count())->toBe(0);
});
