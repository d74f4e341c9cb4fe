<?php

declare(strict_types=1);

use App\Instance;
use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Scan\AnnexFinding;
use App\Kinds\Machines\Scan\AnnexScan;
use App\Kinds\Machines\Scan\ScanInAnnex;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunFiles;
use Illuminate\Support\Facades\Queue;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\HelpersAtWork;
use Tests\Support\HypervisorAtWork;
use Tests\Support\ScannerHere;

/*
 * Machines in an annex are looked through before they are released. What is found is what clamd(8) of Debian finds with our lists; what
 * the test puts there is known.
 */

beforeEach(function (): void {
    array_map(unlink(...), [...glob(Instance::folder('serving').'/*') ?: [], ...glob(Instance::folder('annexes').'/*') ?: []]);
    ScannerHere::fetch();
    $this->helpers = new HelpersAtWork;
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
});

afterEach(function (): void {
    ScannerHere::lists([]);
    $this->host->remove();
    $this->helpers->end();
    expect(glob(Instance::folder('tmp').'/scan-*'))->toBe([])
        ->and((new Process(['pgrep', '-f', 'clamd.*'.Instance::path('tmp')]))->run())->toBe(1);
});

/**
 * A machine whose one disk is an ext4 file system of such files, stood up in an annex.
 *
 * @param  array<string, string>  $files  path => content
 * @return string the number of its run
 */
function annexed(mixed $test, array $files): string
{
    $root = $test->scratch()->folder('root');
    foreach ($files as $path => $content) {
        is_dir(dirname("$root/$path")) || mkdir(dirname("$root/$path"), recursive: true);
        file_put_contents("$root/$path", $content);
    }
    $images = $test->scratch()->folder('images');
    $raw = $test->scratch()->at('disk.raw');
    (new Process(['truncate', '-s', '300M', $raw]))->mustRun();
    (new Process(['mke2fs', '-q', '-t', 'ext4', '-d', $root, $raw]))->setTimeout(null)->mustRun();
    Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $raw, "$images/kelp.data.full.20261001T020000Z.qcow2");
    $test->kaiseki('adopt', $images, '--as=kelp', '--kind=machine');

    $up = ['restore', 'kelp', '--at=2026-10-02T12:00:00Z', '--stand-up', '--annex', '--on=ketch', '--memory=64'];

    return (string) $test->told(0, ...$up)['run'];
}

it('finds what is on its lists, also packed, says what it could not look into, and lets nothing go without a verdict', function (): void {
    $locked = $this->scratch()->at('locked.zip');
    $this->scratch()->file('secret', ScannerHere::testFile());
    $zip = new ZipArchive;
    $zip->open($locked, ZipArchive::CREATE);
    $zip->addFile($this->scratch()->at('secret'), 'secret');
    $zip->setEncryptionName('secret', ZipArchive::EM_AES_256, 'tide');
    $zip->close();
    $packed = $this->scratch()->at('packed.tgz');
    (new Process(['tar', '-czf', $packed, '-C', $this->scratch()->path, 'secret']))->mustRun();
    $known = "it has no marks, and somebody knows it\n";
    $fine = "KAISEKI-HARMLESS-TEST-WORD-7d1e of a teacher\n";
    ScannerHere::lists([
        'known-bad' => hash('sha256', $known)."  a script of October\n",
        'known-harmless' => hash('sha256', $fine)."  a lesson\n",
    ]);
    $run = annexed($this, [
        'home/eicar.com' => ScannerHere::testFile(),
        'home/packed.tgz' => (string) file_get_contents($packed),
        'home/locked.zip' => (string) file_get_contents($locked),
        "home/odd\nname" => 'a KAISEKI-HARMLESS-TEST-WORD-7d1e in it',
        'home/known' => $known,
        'home/lesson' => $fine,
        'home/clean' => str_repeat('tides', 10_000),
        'home/empty' => '',
        'home/large' => str_repeat("\0", (128 << 20) + 1),
    ]);
    expect($this->told(3, 'release', $run)['error'])->toContain('Nobody has scanned it');
    $told = $this->told(4, 'scan', $run);
    $found = array_column($told['found'], null, 'path');
    $is = fn (string $name): ?string => $found['data%2Fhome%2F'.rawurlencode($name)]['what'] ?? null;
    expect(array_map($is, ['eicar.com', 'packed.tgz', "odd\nname", 'known', 'lesson', 'clean', 'locked.zip']))
        ->toBe(['Test.Eicar', 'Test.Eicar', 'Test.Kaiseki', 'Known.a_script_of_October', 'Test.Kaiseki', null, null])
        ->and([$told['files'], $told['not_looked_count']])->toBe([7, 2])
        ->and(implode(' ', array_column($told['not_looked'], 'because')))->toContain('password')->toContain('larger than 128 MiB')
        ->and($found['data%2Fhome%2Flesson']['verdict'])->toBe('harmless')
        ->and($found['data%2Fhome%2Flesson']['by_rule'])->toBeTrue()
        ->and($found['data%2Fhome%2Feicar.com']['sha256'])->toBe(hash('sha256', ScannerHere::testFile()));

    // As many verdicts as findings; a bad one is in the way until the machine is another.
    expect($this->told(3, 'release', $run, '--unscanned')['error'])->toContain('/data/home/eicar.com was found to be Test.Eicar');
    foreach ($told['found'] as $one) {
        $verdict = $one['path'] === 'data%2Fhome%2Fknown' ? 'bad' : 'harmless';
        $one['verdict'] !== null || $this->told(0, 'verdict', (string) $one['finding'], $verdict, '--why=a test');
    }
    expect($this->told(3, 'release', $run)['error'])->toBe('/data/home/known was found to be Known.a_script_of_October: it is bad. '.
        'Remove it in the machine and scan that again, or drop the machine.');
    $again = $this->told(4, 'scan', $run);
    expect(array_count_values(array_column($again['found'], 'verdict')))->toBe(['harmless' => 4, 'bad' => 1]);
    $bad = array_column($again['found'], 'finding', 'path')['data%2Fhome%2Fknown'];
    $this->told(0, 'verdict', (string) $bad, 'harmless', '--why=it was looked at again');
    $this->hypervisor->stop("kelp.standing-run-$run", true);
    $released = $this->told(0, 'release', $run);
    $proof = file_get_contents(RunFiles::proof(Run::query()->find($released['run'])));
    expect($proof)->toContain('it was looked at again', '7 files looked into, 2 things not')
        ->and($this->told(3, 'verdict', (string) $bad, 'bad', '--why=late')['error'])->toContain('released out of its annex already')
        ->and(TrailEntry::query()->where('what', 'like', '%is harmless: it was looked at again')->count())->toBe(1);
});

it('says when its time was over, what it did not reach, and when it came to nothing', function (): void {
    $run = annexed($this, ['a' => str_repeat('x', 30_000_000), 'b' => str_repeat('y', 30_000_000), 'c' => ScannerHere::testFile()]);
    $scan = AnnexScan::query()->create([
        'annex_id' => Annex::ofRun(Run::query()->find($run))->id, 'budget' => 0, 'state' => AnnexScan::WAITING,
    ]);
    (new ScanInAnnex($scan->id))->handle();
    expect([$scan->refresh()->state, $scan->files])->toBe([AnnexScan::DONE, 0])
        ->and($scan->not_looked[0]['because'])->toContain('the time was over');

    // A list that cannot be read is no list: nothing is called clean by it.
    ScannerHere::lists(['broken.ndb' => "broken:line\n"]);
    expect($this->told(4, 'scan', $run)['error'])->toContain('it did not begin')
        ->and(AnnexFinding::query()->count())->toBe(0);
    ScannerHere::lists([]);
    expect($this->told(4, 'scan', $run)['found'][0]['path'])->toBe('data%2Fc')
        ->and($this->hypervisor->machine("kelp.standing-run-$run")->isRunning())->toBeTrue();
});

it('is ordered, followed and decided about on the page of the run', function (): void {
    $run = Run::query()->findOrFail(annexed($this, ['<b>c' => ScannerHere::testFile()]));
    $page = "/runs/{$run->id}";
    $this->actingAs($this->person(Role::Operator));
    Queue::fake();
    $this->get($page)->assertOk()->assertSee('Nobody has looked through its files')->assertSee('Release it unscanned');
    $this->post("$page/scan")->assertSessionHasNoErrors();
    $this->post("$page/scan")->assertSessionHasErrors('scan');
    $this->get($page)->assertOk()->assertSee('It is being looked through')->assertSee('every 1s')->assertSee('It is being scanned.');
    (new ScanInAnnex(AnnexScan::query()->value('id')))->handle();
    $this->get($page)->assertOk()->assertSee('/data/&lt;b&gt;c', false)->assertSee('Test.Eicar')->assertSee('waits for a verdict');
    $finding = AnnexFinding::query()->value('id');
    $this->post("$page/findings/$finding", ['verdict' => 'harmless'])->assertSessionHasErrors('why');
    $this->post("$page/findings/4711", ['verdict' => 'harmless', 'why' => 'x'])->assertNotFound();
    $this->post("$page/findings/$finding", ['verdict' => 'harmless', 'why' => 'the test file of the trade'])->assertSessionHasNoErrors();
    $this->get($page)->assertOk()->assertSee('the test file of the trade')->assertDontSee('waits for a verdict');
});
