<?php

declare(strict_types=1);

use App\Jobs\ClearSetAsides;
use App\Jobs\IndexTexts;
use App\Jobs\ReadBackCopies;
use App\Jobs\ReckonStanding;
use App\Jobs\SendAlarms;
use App\Jobs\WatchAlarms;
use App\Jobs\WriteNightKit;
use App\Kinds\Items\Catalog\ForgetGoneItems;
use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Catalog\LookThroughItems;
use App\Kinds\Kinds;
use App\Models\Alarm;
use App\Models\Check;
use App\Models\Copy;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Trees\Catalog\TextIndex;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\Process\Process;
use Tests\Support\Archives;
use Tests\Support\MailSamples;

// What the jobs do that nobody waits for: each is begun twice, since a worker may be killed at its end and begin it anew.

it('reads copies back, tells how far it is, and has the standing reckoned anew', function (): void {
    Queue::fake();
    $archives = (new Archives($this->scratch()))->put('a', str_repeat('good ', 2000));
    $archives->dump('full');
    $archives->put('b', str_repeat('also good ', 2000));
    $bad = $archives->dump('incr');
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $workload = Workload::query()->sole();
    $archives->flip($bad, intdiv((int) filesize($archives->file($bad)), 2));
    $copies = Copy::query()->orderBy('id')->pluck('id')->map(intval(...))->all();

    ReadBackCopies::begin($copies, $workload->id, null);
    $begun = ReadBackCopies::progress($workload->id);
    expect([$begun?->done, $begun?->all, $begun?->wrong])->toBe([0, 2, 0]);
    // One of them was let go of meanwhile.
    $job = new ReadBackCopies([...$copies, 999_999], null, $workload->id);
    $job->handle();
    expect(ReadBackCopies::progress($workload->id))->toBeNull()
        ->and(Check::query()->orderBy('id')->pluck('result')->all())->toBe(['right', 'damaged'])
        ->and(Copy::query()->orderBy('id')->pluck('state')->all())->toBe(['checked', 'damaged']);
    Queue::assertPushed(ReckonStanding::class);
    $job->handle();
    expect(Check::query()->count())->toBe(4);
});

it('looks into texts of what came since, once', function (): void {
    $archives = (new Archives($this->scratch()))->put('notes.txt', 'The pilot boards at the Gull Ness buoy.');
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $workload = Workload::query()->sole();
    expect(TextIndex::isBehind($workload->id))->toBeTrue()->and(DB::table('texts')->count())->toBe(0);
    foreach ([1, 2] as $_) {
        (new IndexTexts)->handle();
        expect(DB::table('texts')->pluck('words')->all())->toBe(['The pilot boards at the Gull Ness buoy.'])
            ->and(TextIndex::isBehind($workload->id))->toBeFalse();
    }
});

it('looks through items that were cataloged since, and forgets those that no point has any more', function (): void {
    $samples = new MailSamples(4);
    [$first, $second] = [$samples->message(), $samples->message()];
    $archives = (new Archives($this->scratch()))->put('ada/Maildir/cur/1.M1.h:2,S', $first);
    $archives->dump('full');
    $archives->put('ada/Maildir/cur/2.M2.h:2,S', $second);
    $archives->dump('incr');
    $this->told(0, 'adopt', $archives->folder, '--as=post', '--kind=items');
    $workload = Workload::query()->sole();
    DB::table('item_marks')->where('workload_id', $workload->id)->update(['version_id' => 0]);
    expect(ItemCatalog::isBehind($workload))->toBeTrue();
    foreach ([1, 2] as $_) {
        (new LookThroughItems)->handle();
        expect([ItemCatalog::isBehind($workload), ItemWords::waiting($workload), DB::table('items')->count()])->toBe([false, 0, 2]);
    }
    expect(DB::table('item_words')->count())->toBe(2);

    // The one set that has the second message is let go of, and with it what only it had.
    DB::table('versions')->where('first', DB::table('versions')->max('first'))->delete();
    foreach ([1, 2] as $_) {
        (new ForgetGoneItems)->handle();
        expect(DB::table('items')->pluck('identity')->all())->toBe([Message::identityOf($first)])
            ->and(DB::table('item_words')->count())->toBe(1)->and(DB::table('item_terms')->count())->toBe(1);
    }
});

it('writes what works without the desk into every store of ours', function (): void {
    $this->told(0, 'store-add', 'near', $near = $this->scratch()->folder('near'));
    $source = dirname($this->scratch()->file('host/files/roster', 'who sails when'));
    $this->told(0, 'protect', 'tree', "--source=$source", '--store=near', '--level=full');
    foreach ([1, 2] as $_) {
        (new WriteNightKit)->handle();
        $check = (new Process(['sh', 'check.sh'], "$near/night-kit"))->mustRun();
        expect($check->getOutput())->toContain('All is right.');
    }
    $into = $this->scratch()->folder('by-hand');
    (new Process(['sh', 'hand-sheet-tree.sh', $into], "$near/night-kit"))->mustRun();
    expect(trim($this->scratch()->run('find', $into, '-name', 'roster')))->not->toBe('');
    Store::query()->where('name', 'near')->update(['root' => '/nowhere']);
    (new WriteNightKit)->handle(); // what is silent is told by others
});

it('removes what runs replaced when its time is over, and not before', function (): void {
    $archives = (new Archives($this->scratch()))->put('roster', 'as it was');
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $out = $this->scratch()->folder('out');
    $this->scratch()->file('out/tree/roster', 'as it is');
    $told = $this->told(0, 'restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$out", '--conflict=replace');
    $run = Run::query()->findOrFail($told['run']);
    (new ClearSetAsides)->handle();
    expect(Kinds::of($run)->carrier()->canBePutBack($run->refresh()))->toBeTrue();
    $this->travel(15)->days();
    foreach ([1, 2] as $_) {
        (new ClearSetAsides)->handle();
        expect(Kinds::of($run)->carrier()->canBePutBack($run->refresh()))->toBeFalse()->and($run->set_aside_until)->toBeNull();
    }
    $left = explode("\n", trim($this->scratch()->run('find', $out, '-type', 'f')));
    expect($left)->toBe(["$out/tree/roster"])->and(file_get_contents("$out/tree/roster"))->toBe('as it was');
});

it('raises alarms of what it sees, and sends them', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'x');
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $set = Copy::query()->value('set_id');
    Run::query()->create([
        'workload_id' => Workload::query()->sole()->id, 'set_id' => $set, 'state' => 'failed', 'plan' => [],
        'failure' => 'The disk is full.',
        'ended_at' => now(),
    ]);
    foreach ([1, 2] as $_) {
        (new WatchAlarms)->handle();
        (new SendAlarms)->handle(); // to nobody: no receiver is known
        expect(Alarm::query()->where('sort', 'run')->count())->toBe(1);
    }
});
