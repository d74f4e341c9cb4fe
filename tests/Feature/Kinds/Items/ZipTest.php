<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Items\Order\ItemsSaid;
use App\Kinds\Items\Order\ItemsSheet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use Tests\Support\CalendarSamples;
use Tests\Support\Desk;
use Tests\Support\MailSamples;

/* Items as one zip: Python's zipfile takes it apart. */

beforeEach(function (): void {
    $scratch = $this->scratch();
    $samples = new MailSamples(71);
    foreach (range(1, 12) as $number) {
        $scratch->file("mail/ada/Maildir/cur/17900000$number.M1.h:2,S", $samples->message());
    }
    $scratch->file('mail/ada/people/c.vcf', (new CalendarSamples(7))->contact());
    $this->set = $this->told(0, 'protect', 'post', "--mail={$scratch->path}/mail", '--level=full')['set'];
    $this->restore = fn (string ...$more): array => $this->told(0, 'restore', 'post', "--point={$this->set}", '--mailbox=ada', ...$more);
});

afterEach(function (): void {
    unset($this->restore);
});

it('holds what single files hold, with their names and times', function (): void {
    [$files, $zip] = [$this->scratch()->path.'/files', $this->scratch()->path.'/zip'];
    ($this->restore)("--to=$files", '--as=eml');
    $run = ($this->restore)("--to=$zip", '--as=zip');
    expect($run['entries'])->toBe(13)->and($run['checks'][0]['result'])->toBe('passed');
    $program = <<<'PYTHON'
        import json, sys, zipfile, hashlib, calendar
        z = zipfile.ZipFile(json.load(sys.stdin))
        assert z.testzip() is None
        of = lambda i: [hashlib.sha256(z.read(i)).hexdigest(), calendar.timegm(i.date_time + (0, 0, 0))]
        print(json.dumps({i.filename: of(i) for i in z.infolist()}))
        PYTHON;
    $held = MailSamples::python($program, "$zip/items-of-run-{$run['run']}.zip");
    ksort($held);
    $single = [];
    foreach (explode("\n", trim($this->scratch()->run('find', $files, '-type', 'f', '-printf', '%P\n'))) as $name) {
        $single[$name] = hash_file('sha256', "$files/$name");
        // A zip counts in steps of two seconds, in the time of where it is made (APPNOTE 4.4.6).
        expect(abs($held[$name][1] - (int) filemtime("$files/$name") - (int) date('Z', (int) filemtime("$files/$name"))))->toBeLessThan(2);
    }
    ksort($single);
    expect(array_map(fn (array $one): string => $one[0], $held))->toBe($single);
    expect(glob(App\Instance::folder('tmp').'/zip-of-run-*'))->toBe([]);
});

it('is taken by the browser, by an operator and by who asked for it, and no longer when it changed', function (): void {
    $workload = Workload::query()->sole();
    $workload->update(['group' => 'crew office']);
    Desk::belongs(Store::query()->sole(), 'crew office');
    [$operator, $asker] = [$this->person(Role::Operator), $this->person(Role::Requester)];
    $request = RecoveryRequest::query()->create([
        'workload_id' => $workload->id, 'requester_id' => $asker->id, 'summary' => 'All of it, please', 'reason' => 'To read at home',
        'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ]);
    (new ItemsSaid(['mailbox' => 'ada'], 'files', form: 'zip'))->keepOn($request)->save();
    $sheet = new ItemsSheet($request->refresh());
    $this->actingAs($operator)->get("/requests/{$request->id}?show=where")->assertSee('one zip with a file for each');
    $this->post("/requests/{$request->id}/run", ['order' => $sheet->fingerprint()])->assertRedirect();
    (new CarryOutRun(Run::query()->sole()->id))->handle();
    $run = Run::query()->sole();
    expect($run->state)->toBe('done', (string) $run->failure);
    $name = "items-of-run-{$run->id}.zip";
    $bytes = (string) file_get_contents(rawurldecode($run->plan['target'])."/$name");
    $this->get("/requests/{$request->id}?show=proof")->assertSee("/runs/{$run->id}/zip", false)->assertSee($name);
    expect($this->get("/runs/{$run->id}/zip")->assertOk()->streamedContent())->toBe($bytes);
    $this->actingAs($asker)->get("/requests/{$request->id}")->assertSee("/runs/{$run->id}/zip", false);
    $part = $this->get("/runs/{$run->id}/zip", ['Range' => 'bytes=10-29'])->assertStatus(206)->streamedContent();
    $told = TrailEntry::query()->where('what', 'like', "Took $name%")->pluck('what')->all();
    expect($part)->toBe(substr($bytes, 10, 20))->and($told)->toBe(["Took $name.", "Took $name, bytes 10 to 29."]);
    $this->actingAs($this->person(Role::Requester))->get("/runs/{$run->id}/zip")->assertForbidden();
    file_put_contents(rawurldecode($run->plan['target'])."/$name", 'changed');
    $this->actingAs($operator)->get("/runs/{$run->id}/zip")->assertConflict();
    $this->get("/runs/{$run->id}/download")->assertNotFound();
});
