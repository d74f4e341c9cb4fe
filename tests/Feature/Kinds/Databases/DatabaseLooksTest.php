<?php

declare(strict_types=1);

use App\Jobs\TakeLook;
use App\Kinds\Databases\Order\DatabaseSaid;
use App\Models\Look;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Symfony\Component\Process\Process;
use Tests\Support\Mariadb;

// What takes too long for a page: the server, rows that would change, the rows of a table are looked at by jobs.

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    $this->server->exec(
        'CREATE DATABASE fares',
        'CREATE TABLE fares.tickets (id INT PRIMARY KEY, price INT)',
        'INSERT INTO fares.tickets VALUES (1, 8), (2, 9), (31, 10)',
    );
    $this->server->addTo($this, 'fares-db');
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'));
    $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=near');
    $this->server->exec('UPDATE fares.tickets SET price = 0 WHERE id < 3');
    $this->gtid = $this->server->gtid();
    $this->kaiseki('protect', 'fares-db', '--level=log', '--store=near');
    $this->actingAs($this->operator = $this->person(Role::Operator));
    $this->ask = function (array $choice): RecoveryRequest {
        $request = RecoveryRequest::query()->create([
            'workload_id' => Workload::query()->where('name', 'fares-db')->value('id'),
            'requester_id' => $this->operator->id,
            'summary' => 'Prices are gone',
            'reason' => 'Needed',
            'wanted_at' => now()->addMinute(),
            'due_at' => now()->addHour(),
        ]);
        (new DatabaseSaid($choice))->keepOn($request->refresh())->save();

        return $request;
    };
});

afterEach(fn () => $this->server->stop());

it('asks no server and keeps nothing when a page is read', function (): void {
    $request = ($this->ask)(['reverse' => $this->gtid]);
    $sessions = fn (): string => $this->server->rows('SHOW GLOBAL STATUS LIKE "Connections"')[0]['Value'];
    $before = $sessions();
    foreach (['when', 'what', 'what&table=fares.tickets', 'where', 'how', 'preview', 'run', 'proof'] as $show) {
        $this->get("/requests/{$request->id}?show=$show")->assertOk();
    }
    expect($sessions())->toBe($before)->and(Look::query()->count())->toBe(0);
});

it('shows what was found, with its time, on whichever page asks for it', function (): void {
    $request = ($this->ask)(['reverse' => $this->gtid]);
    $url = "/requests/{$request->id}";
    $this->get("$url?show=preview")->assertSee('Look at the rows, beside the live ones')->assertDontSee('Set back');
    $this->post("$url/database/look", ['look' => 'rows', 'show' => 'preview'])->assertRedirect("$url?show=preview");
    $this->get("$url?show=preview")->assertSee('Set back')->assertSee('fares.tickets')->assertSee('As it was at')->assertSee('Look again');
    $this->post("$url/database/look", ['look' => 'server', 'show' => 'when']);
    $this->get("$url?show=when")->assertSee('The server answers');
    $this->get("$url?show=run")->assertSee('The server answers');
});

it('shows the rows of a table at the point beside the live ones, found by their key', function (): void {
    $request = ($this->ask)(['before' => $this->gtid, 'schema' => 'then']);
    $url = "/requests/{$request->id}";
    $asked = ['table' => 'fares.tickets', 'key' => '3'];
    $there = "$url?show=what&table=fares.tickets&key=3";
    $this->post("$url/database/look", ['look' => 'table', 'show' => 'what'] + $asked)->assertRedirect($there);
    $this->get($there)->assertSee('3 rows then')->assertSee('the same')->assertDontSee('now 0');
    $this->get("$url?show=what&table=fares.tickets")->assertDontSee('3 rows then');
    $this->post("$url/database/look", ['look' => 'table', 'show' => 'what', 'table' => 'fares.tickets']);
    $this->get("$url?show=what&table=fares.tickets")->assertSee('now 0')->assertSee('changed');
    $this->post("$url/database/look", ['look' => 'table', 'show' => 'what', 'table' => 'fares.nothing']);
    $this->get("$url?show=what&table=fares.nothing")->assertSee('There is no table nothing at that point');
    $this->post("$url/database/look", ['look' => 'table', 'show' => 'what'])->assertSessionHasErrors('table');
    $this->post("$url/database/look", ['look' => 'TakeLook', 'show' => 'what'])->assertSessionHasErrors('look');
});

it('shows nothing that was found for another order', function (): void {
    $request = ($this->ask)(['before' => $this->gtid, 'schema' => 'then']);
    $url = "/requests/{$request->id}";
    $this->post("$url/database/look", ['look' => 'server', 'show' => 'when']);
    $this->get($url)->assertSee('The name then');
    (new DatabaseSaid(['before' => $this->gtid, 'schema' => 'other']))->keepOn($request)->save();
    $this->get($url)->assertDontSee('The name then')->assertSee('Look at the server fares-db');
});

it('looks once at a time, tells that it is under way, and says so if whoever looked died', function (): void {
    Queue::fake();
    $request = ($this->ask)(['before' => $this->gtid, 'schema' => 'then']);
    $url = "/requests/{$request->id}";
    $this->post("$url/database/look", ['look' => 'server', 'show' => 'when']);
    $this->post("$url/database/look", ['look' => 'server', 'show' => 'when']);
    Queue::assertPushed(TakeLook::class, 1);
    $this->get($url)->assertSee('The server fares-db: being looked at since')->assertSee('hx-trigger="every 1s"', false);
    $dead = new Process(['sleep', '60']);
    $dead->start();
    $stat = explode(' ', (string) preg_replace('/^.*\) /s', '', (string) file_get_contents("/proc/{$dead->getPid()}/stat")));
    Look::query()->update(['state' => 'running', 'worker' => gethostname().":{$dead->getPid()}:{$stat[19]}", 'told' => 'loaded 3 MB']);
    $this->get($url)->assertSee('loaded 3 MB');
    $dead->stop(0);
    $this->get($url)->assertDontSee('being looked at')->assertSee('ended before it was through');
    $this->post("$url/database/look", ['look' => 'server', 'show' => 'when']);
    Queue::assertPushed(TakeLook::class, 2);
});

it('asks the server itself when the order is confirmed, whatever a page kept', function (): void {
    $request = ($this->ask)(['before' => $this->gtid, 'schema' => 'then']);
    $url = "/requests/{$request->id}";
    $this->post("$url/database/look", ['look' => 'server', 'show' => 'when']);
    $page = $this->get("$url?show=run")->assertSee('Yes, run it now')->getContent();
    preg_match('/name="order" value="([0-9a-f]{64})"/', (string) $page, $order);
    $this->server->exec('CREATE DATABASE `then`');
    $this->post("$url/run", ['order' => $order[1]]);
    expect(Run::query()->count())->toBe(0)->and(session('errors')->first())->toContain('a schema of that name is on fares-db already');
});

it('forgets after a day what was found: it holds contents', function (): void {
    $request = ($this->ask)(['before' => $this->gtid, 'schema' => 'then']);
    $this->post("/requests/{$request->id}/database/look", ['look' => 'server', 'show' => 'when']);
    Look::query()->update(['asked_at' => now()->subHours(25)]);
    (new App\Jobs\ReckonStale)->handle();
    expect(Look::query()->count())->toBe(0);
});
