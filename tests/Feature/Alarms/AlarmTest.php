<?php

declare(strict_types=1);

use App\Alarms\AlarmBook;
use App\Alarms\AlarmSender;
use App\Alarms\Cause;
use App\Jobs\CheckTrail;
use App\Models\Alarm;
use App\Models\AlarmReceiver;
use App\Models\AlarmSending;
use App\Models\AlarmSort;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Trail\TrailSeals;
use Illuminate\Mail\MailManager;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use StandardWebhooks\Webhook;
use Tests\Support\Desk;
use Tests\Support\Sink;

// What somebody must hear of is raised once for a cause, sent to whom it concerns, again until somebody takes it, and over when it is.

beforeEach(function (): void {
    Queue::fake();
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->workload = Workload::query()->sole();
    $this->fail = fn (): Run => Run::query()->create([
        'workload_id' => $this->workload->id,
        'request_id' => $this->desk->request->id,
        'set_id' => $this->desk->set(0)->id,
        'state' => 'failed',
        'plan' => [],
        'failure' => "The disk is full.\nAnd more",
        'ended_at' => now(),
    ]);
    $this->open = fn (): array => Alarm::query()->whereNotNull('open')->orderBy('id')->pluck('open')->all();
    $this->mailTo = function (int $port): void {
        config(['mail.default' => 'smtp', 'mail.mailers.smtp.url' => "smtp://127.0.0.1:$port"]);
        $this->app->make(MailManager::class)->purge('smtp');
    };
});

it('raises one alarm of a cause, and ends it when the cause is gone', function (): void {
    $run = ($this->fail)();
    AlarmBook::look();
    AlarmBook::look();
    expect(($this->open)())
        ->toContain("run run {$run->id}")
        ->and(
            Alarm::query()
                ->where('open', "run run {$run->id}")
                ->value('words'),
        )
        ->toContain('failed: The disk is full.');
    $run->update(['state' => 'waiting', 'waits_for' => ['boathouse']]);
    AlarmBook::look();
    expect(($this->open)())
        ->toContain("wait run {$run->id}")
        ->not->toContain("run run {$run->id}")
        ->and(Alarm::query()->where('sort', 'run')->sole()->over_at)
        ->not->toBeNull();
    $this->travel(91)->days();
    $run->delete();
    AlarmBook::look();
    AlarmBook::look();
    expect(Alarm::query()->where('sort', 'run')->exists())->toBeFalse();
});

it('raises one for a hole in the trail', function (): void {
    TrailEntry::add('It was so.', null, null);
    TrailSeals::bringUpToDate();
    (new CheckTrail)->handle();
    AlarmBook::look();
    expect(($this->open)())->not->toContain('trail check');
    DB::table('trail')
        ->orderByDesc('id')
        ->limit(1)
        ->update(['what' => 'It was not.']);
    (new CheckTrail)->handle();
    AlarmBook::look();
    expect(($this->open)())->toContain('trail check');
});

it('mails it to whom it concerns, once, and again after their minutes until somebody takes it', function (): void {
    $sink = Sink::smtp($this->scratch());
    try {
        ($this->mailTo)($sink->port);
        $this->kaiseki('alarm', 'to', 'night-watch', '--mail=watch@sorrelsound.example', '--about=run', '--repeat=30');
        $this->kaiseki('alarm', 'to', 'piers', '--mail=piers@sorrelsound.example', '--group=piers');
        $run = ($this->fail)();
        AlarmBook::look();
        expect(AlarmSender::sendDue())->toBe(1)->and(AlarmSender::sendDue())->toBe(0);
        expect($sink->got())
            ->toHaveCount(1)
            ->and($sink->got()[0]['to'])
            ->toBe(['watch@sorrelsound.example'])
            ->and($sink->got()[0]['text'])
            ->toContain("Run {$run->id} of crew failed")
            ->toContain("/runs/{$run->id}");
        $this->travel(29)->minutes();
        expect(AlarmSender::sendDue())->toBe(0);
        $this->travel(2)->minutes();
        expect(AlarmSender::sendDue())->toBe(1);
        AlarmBook::take(Alarm::query()->where('sort', 'run')->sole(), $this->desk->operator);
        $this->travel(2)->hours();
        expect(AlarmSender::sendDue())->toBe(0)->and($sink->got())->toHaveCount(2);
    } finally {
        $sink->end();
    }
});

it('posts it so that its receiver can tell it from another\'s (Standard Webhooks 1.0)', function (): void {
    $sink = Sink::http($this->scratch());
    try {
        $secret = $this->kaiseki('alarm', 'to', 'board', "--webhook=http://127.0.0.1:{$sink->port}/hook", '--json')->json()['secret'];
        expect(AlarmReceiver::query()->sole()->getRawOriginal('secret'))->not->toContain($secret);
        ($this->fail)();
        AlarmBook::look();
        AlarmSender::sendDue();
        $got = $sink->got()[0];
        $headers = array_change_key_case($got['headers']);
        $read = (new Webhook($secret))->verify($got['body'], $headers); // throws if it is not signed by that secret
        expect($read['type'])->toBe('alarm.run')->and($read['data']['workload'])->toBe('crew');
        $signed = base64_encode(
            hash_hmac(
                'sha256',
                "{$headers['webhook-id']}.{$headers['webhook-timestamp']}.{$got['body']}",
                (string) base64_decode(substr($secret, 6)),
                true,
            ),
        ); // as the specification has it, without its package
        expect($headers['webhook-signature'])
            ->toBe("v1,$signed")
            ->and(fn () => (new Webhook('whsec_'.base64_encode(random_bytes(24))))->verify($got['body'], $headers))
            ->toThrow(Exception::class);
        expect($this->kaiseki('alarm', 'try', 'board')->code)->toBe(0)->and($sink->got())->toHaveCount(2);
    } finally {
        $sink->end();
    }
});

it('tries again after pauses that grow, follows no redirect, and says why it was not taken', function (): void {
    $this->freezeSecond();
    $sink = Sink::http($this->scratch());
    try {
        $this->kaiseki('alarm', 'to', 'board', "--webhook=http://127.0.0.1:{$sink->port}/hook", '--about=run');
        ($this->fail)();
        AlarmBook::look();
        foreach ([[503, 1], [302, 2], [404, 4]] as $i => [$status, $minutes]) {
            $sink->answer($status);
            expect(AlarmSender::sendDue())->toBe(0);
            $sending = AlarmSending::query()->sole();
            expect($sending->failed)
                ->toBe($i + 1)
                ->and($sending->failure)
                ->toContain((string) $status)
                ->and((int) now()->diffInSeconds($sending->next_at))
                ->toBe($minutes * 60);
            $this->travel($minutes * 60 + 1)->seconds();
        }
        $sink->answer(200);
        expect(AlarmSender::sendDue())
            ->toBe(1)
            ->and(AlarmSending::query()->sole()->failed)
            ->toBe(0)
            ->and(array_unique(array_column($sink->got(), 'path')))
            ->toBe(['/hook']);
        expect($this->kaiseki('alarm', 'try', 'board')->code)->toBe(0);
    } finally {
        $sink->end();
    }
});

it('sends to the others where one receiver hangs', function (): void {
    $hangs = stream_socket_server('tcp://127.0.0.1:0'); // takes the connection, and never answers
    assert($hangs !== false);
    $sink = Sink::http($this->scratch());
    try {
        $this->kaiseki('alarm', 'to', 'a-hangs', '--webhook=http://'.stream_socket_get_name($hangs, false).'/', '--about=run');
        $this->kaiseki('alarm', 'to', 'b-works', "--webhook=http://127.0.0.1:{$sink->port}/", '--about=run');
        ($this->fail)();
        AlarmBook::look();
        expect(AlarmSender::sendDue())
            ->toBe(1)
            ->and($sink->got())
            ->toHaveCount(1)
            ->and(AlarmSending::query()->where('failed', 1)->count())
            ->toBe(1);
    } finally {
        $sink->end();
    }
});

it('shows alarms to who sees the workload, and lets one of the desk take each once', function (): void {
    AlarmBook::raise(new Cause(AlarmSort::Doubt, 'workload 1', 'A point is in <i>doubt</i>.', '/workloads/1/care', $this->workload->id));
    AlarmBook::raise(new Cause(AlarmSort::Trail, 'check', 'The trail has a hole.', '/trail'));
    $alarm = Alarm::query()->where('sort', 'doubt')->sole();
    $this->actingAs($this->desk->operator)->get('/')->assertSee('2 alarms that nobody sees to');
    $this->get('/alarms')
        ->assertSee('A point is in &lt;i&gt;doubt&lt;/i&gt;.', false)
        ->assertSee('The trail has a hole.')
        ->assertSee('Nobody is sent them');
    $this->post("/alarms/{$alarm->id}")->assertSessionHas('told', 'It is yours, and is not sent any more.');
    expect(TrailEntry::query()->latest('id')->value('what'))->toContain('took the alarm: A point is in');
    $this->actingAs($this->desk->person(Role::Approver, ['crew office']))
        ->get('/alarms')
        ->assertSee($this->desk->operator->name)
        ->assertDontSee('The trail has a hole.');
    $this->post("/alarms/{$alarm->id}")->assertSessionHas('told', 'Somebody has it already.');
    $this->actingAs($this->desk->person(Role::Operator, ['piers']))->get('/alarms')->assertDontSee('A point is in');
    $this->post("/alarms/{$alarm->id}")->assertForbidden();
});

it('settles at the terminal to whom alarms go, and drops them', function (): void {
    $this->kaiseki('alarm', 'to', 'watch', '--mail=watch@sorrelsound.example', '--about=run', '--about=doubt', '--group=piers');
    $told = $this->kaiseki('alarm', 'receivers', '--json')->json()['receivers'];
    expect($told)->toBe([
        [
            'receiver' => 'watch',
            'kind' => 'mail',
            'address' => 'watch@sorrelsound.example',
            'about' => ['run', 'doubt'],
            'groups' => ['piers'],
            'repeat_min' => 60,
        ],
    ]);
    ($this->fail)();
    AlarmBook::look();
    expect(array_column($this->kaiseki('alarm', 'list', '--json')->json()['alarms'], 'about'))->toContain('run');
    $this->kaiseki('alarm', 'drop', 'watch');
    expect(AlarmReceiver::query()->exists())
        ->toBeFalse()
        ->and(TrailEntry::query()->latest('id')->value('what'))
        ->toBe('Alarms are not sent to watch any more.');
});
