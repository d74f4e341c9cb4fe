<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;
use Tests\Support\Scratch;

/*
 * A machine that sends its sets itself: the file that the desk makes is run as an ordinary process, over the line with TLS, on a folder
 * that stands for a machine's root. What came is unpacked with GNU tar, and compared with what stands there.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->name = 'agent-'.bin2hex(random_bytes(3));
    $this->root = $this->scratch->folder('machine');
    $this->told = function (int $code, string ...$arguments): array {
        $answer = Instance::kaiseki(...[...$arguments, '--json']);
        expect($answer->code)->toBe($code, $answer->text);

        return $answer->json();
    };
    $this->script = $this->scratch->at('agent.sh');
    $this->agent = fn (string ...$how): Process => new Process(['sh', $this->script, ...$how], null, [
        'KAISEKI_AGENT_ROOT' => $this->root,
        'KAISEKI_AGENT_ETC' => "{$this->root}/etc/kaiseki-agent",
        'KAISEKI_AGENT_STATE' => "{$this->root}/var/lib/kaiseki-agent",
        'KAISEKI_AGENT_PAUSE' => '0.2',
    ], null, null);
    $this->install = function (): void {
        $this->made = ($this->told)(0, 'agent', 'script', $this->name);
        file_put_contents($this->script, $this->made['script']);
        $installed = ($this->agent)('install')->mustRun()->getOutput();
        $known = array_column(($this->told)(0, 'agent', 'list')['agents'], null, 'agent')[$this->made['agent']];
        expect($installed)->toContain($known['words'])->and($known['state'])->toBe('asks for work');
        file_put_contents("{$this->root}/etc/kaiseki-agent/rules", "exclude /srv/cache/* comes again\nexclude /srv/empty of no use\n");
        $this->running = ($this->agent)('run');
        $this->running->start();
    };
    $this->running = null;
    foreach (['srv/crew', 'srv/cache', 'srv/empty/inner', 'etc', 'var/lib'] as $folder) {
        mkdir("{$this->root}/$folder", 0755, true);
    }
    foreach ([
        'srv/crew/roster' => "nine\n", "srv/crew/-rf ; *\n\$(reboot)" => 'odd', "srv/crew/\xff\xfe" => 'bytes', 'srv/crew/none' => '',
        'srv/cache/passing' => 'x', 'srv/empty/inner/not' => 'y', 'srv/crew/large' => random_bytes(6_000_000), 'etc/hostname' => "gate\n",
        'srv/crew/.hidden' => 'h', 'srv/crew/a-b' => 'before a/b',
    ] as $path => $content) {
        file_put_contents("{$this->root}/$path", $content);
    }
    mkdir("{$this->root}/srv/crew/a");
    file_put_contents("{$this->root}/srv/crew/a/b", 'within');
    symlink('roster', "{$this->root}/srv/crew/now");
    link("{$this->root}/srv/crew/roster", "{$this->root}/srv/crew/second");
    posix_mkfifo("{$this->root}/srv/crew/pipe", 0640);
    (new Process(['truncate', '-s', '30M', "{$this->root}/srv/crew/holes"]))->mustRun();
    file_put_contents("{$this->root}/srv/crew/holes", 'end', FILE_APPEND);
    (new Process(['setfattr', '-n', 'user.berth', '-v', 'nine', "{$this->root}/srv/crew/roster"]))->mustRun();
    /** Unpacked with GNU tar, one set over the other. */
    $this->unpacked = function (array $sets): string {
        $to = $this->scratch->folder('unpacked-'.bin2hex(random_bytes(3)));
        foreach ($sets as $set) {
            $archive = glob(Instance::home()."/stores/boathouse/{$this->name}/$set.tar.gz")[0];
            $tar = ['tar', '--extract', '--gzip', "--file=$archive", "--directory=$to", '--listed-incremental=/dev/null', '--xattrs'];
            (new Process([...$tar, '--xattrs-include=*', '--numeric-owner'], null, null, null, null))->mustRun();
        }

        return $to;
    };
    /** What find says of a tree, but of what is left out. */
    $this->tree = fn (string $of): string => (new Process([
        'find', '.', '(', '-path', './etc/kaiseki-agent', '-o', '-path', './var/lib/kaiseki-agent', '-o', '-path', './srv/cache/*', '-o',
        '-path', './srv/empty/*', ')', '-prune', '-o', '-printf', '%y %m %U %G %s %T@ %n %p %l\n',
    ], $of))->mustRun()->getOutput();
    $this->sorted = function (string $tree): array {
        $lines = preg_replace('/^(d \d+ \d+ \d+) \d+ (\S+) \d+/', '$1 $2', explode("\n", $tree)); // those sizes are the file system's
        sort($lines);

        return $lines;
    };
});

afterEach(function (): void {
    $this->running?->stop(2);
    $this->scratch->remove();
});

it('sends all of a machine, and then what changed, as archives that plain tar gives back', function (): void {
    ($this->install)();
    $full = ($this->told)(0, 'protect', $this->name, '--level=full');
    $first = ($this->unpacked)([$full['set']]);
    expect(($this->sorted)(($this->tree)($first)))->toBe(($this->sorted)(($this->tree)($this->root)))
        ->and((new Process(['diff', '-r', '--exclude=pipe', "$first/srv/crew", "{$this->root}/srv/crew"]))->run())->toBe(0)
        ->and(is_dir("$first/srv/empty"))->toBeTrue()->and(is_dir("$first/srv/empty/inner"))->toBeFalse()
        ->and(is_file("$first/srv/cache/passing"))->toBeFalse()->and(is_file("$first/etc/kaiseki-agent/rules"))->toBeTrue()
        ->and(glob("$first/etc/kaiseki-agent/{token,last}", GLOB_BRACE))->toBe([])
        ->and((new Process(['getfattr', '--only-values', '-n', 'user.berth', "$first/srv/crew/second"]))->mustRun()->getOutput())
        ->toBe('nine');
    $remarks = implode("\n", json_decode((string) file_get_contents(glob(
        Instance::home()."/stores/boathouse/{$this->name}/{$full['set']}.set.json",
    )[0]), true)['remarks']);
    expect($remarks)->toContain('/srv/cache/* (comes again)')->toContain('/srv/empty (of no use)')->toContain('without a snapshot');

    file_put_contents("{$this->root}/srv/crew/roster", "ten\n");
    unlink("{$this->root}/srv/crew/a-b");
    rename("{$this->root}/srv/crew/a", "{$this->root}/srv/crew/moved");
    chmod("{$this->root}/etc/hostname", 0600);
    sleep(1);
    $increment = ($this->told)(0, 'protect', $this->name);
    $second = ($this->unpacked)([$full['set'], $increment['set']]);
    expect(($this->sorted)(($this->tree)($second)))->toBe(($this->sorted)(($this->tree)($this->root)))
        ->and((new Process(['diff', '-r', '--exclude=pipe', "$second/srv/crew", "{$this->root}/srv/crew"]))->run())->toBe(0)
        ->and($increment['level'])->toBe('incr');
    // What did not change did not come again.
    $stored = glob(Instance::home()."/stores/boathouse/{$this->name}/{$increment['set']}.tar.gz")[0];
    expect(filesize($stored))->toBeLessThan(100_000);

    // And it is a workload of files like any other.
    $to = $this->scratch->folder('restored');
    $told = ($this->told)(0, 'restore', $this->name, "--point={$increment['set']}", '--path=/srv/crew', "--to=$to");
    expect(file_get_contents("$to/srv/crew/roster"))->toBe("ten\n")->and($told['left_out'])->toBe([]);
});

it('brings its machine to rest by programs that lie there, and lets it go on', function (): void {
    ($this->install)();
    $etc = "{$this->root}/etc/kaiseki-agent";
    $hook = function (string $when, string $does) use ($etc): void {
        file_put_contents("$etc/$when", "#!/bin/sh\n$does\n");
        chmod("$etc/$when", 0700);
    };
    $hook('before', "echo resting >{$this->root}/srv/crew/state; echo all at rest");
    $hook('after', "echo running >{$this->root}/srv/crew/state");
    $full = ($this->told)(0, 'protect', $this->name, '--level=full');
    $record = fn (string $set): array => json_decode((string) file_get_contents(glob(
        Instance::home()."/stores/boathouse/{$this->name}/$set.set.json",
    )[0]), true);
    expect(file_get_contents(($this->unpacked)([$full['set']]).'/srv/crew/state'))->toBe("resting\n")
        ->and(file_get_contents("{$this->root}/srv/crew/state"))->toBe("running\n")
        ->and($record($full['set'])['consistency'])->toBe('application');
    $hook('before', 'echo it will not rest >&2; exit 3');
    sleep(1);
    $next = ($this->told)(0, 'protect', $this->name);
    expect($record($next['set'])['consistency'])->toBe('none')
        ->and(implode(' ', $record($next['set'])['remarks']))->toContain('ended with 3: it will not rest');
});

it('takes no order twice, nor one for another machine, nor one that its desk did not sign', function (): void {
    ($this->install)();
    ($this->told)(0, 'protect', $this->name, '--level=full');
    $this->running->stop(2);
    $folder = Instance::home()."/agents/{$this->made['agent']}";
    $etc = "{$this->root}/etc/kaiseki-agent";
    $last = (int) file_get_contents("$etc/last");
    $token = hash('sha256', (string) file_get_contents("$etc/token"));
    Instance::database()->exec('UPDATE agents SET sequence = '.($last + 5)." WHERE id = {$this->made['agent']}");
    $offer = function (string $text, bool $isSigned = true) use ($folder, $last): void {
        is_dir("$folder/".($last + 5)) || (new Process(['mkdir', '--mode=777', '--parents', $folder, "$folder/".($last + 5)]))->mustRun();
        $key = sodium_crypto_sign_secretkey((string) file_get_contents(Instance::home().'/keys/metal.ed25519'));
        $signature = sodium_crypto_sign_detached($isSigned ? $text : "$text ", $key);
        file_put_contents("$folder/".($last + 5).'/order', $signature.$text);
        (new Process(['chmod', '-R', 'a+rwX', $folder]))->mustRun(); // this test may be another account than the desk
        ($this->agent)('once')->mustRun();
    };
    $came = fn (): bool => is_file("$folder/".($last + 5).'/done');
    $offer("kaiseki-agent-1 $token ".($last + 5)." list\n", false);
    expect($came())->toBeFalse();
    $offer('kaiseki-agent-1 '.str_repeat('0', 64).' '.($last + 5)." list\n");
    expect($came())->toBeFalse();
    $offer("kaiseki-agent-1 $token $last list\n");
    expect($came())->toBeFalse();
    $offer("kaiseki-agent-1 $token ".($last + 5)." reboot\n");
    expect($came())->toBeTrue()->and(file_get_contents("$folder/".($last + 5).'/done'))->toContain('does not know the order "reboot"');
    (new Process(['rm', '-rf', $folder]))->mustRun();

    // Revoked, nothing is taken from it, and it stops; and no second machine comes by its code.
    ($this->told)(0, 'agent', 'revoke', (string) $this->made['agent']);
    $again = ($this->agent)('once');
    expect($again->run())->toBe(1)->and($again->getErrorOutput())->toContain('does not know this machine any more');
    $second = ($this->agent)('install');
    expect($second->run())->toBe(1)->and($second->getErrorOutput())->toContain('refuses the code')
        ->and(($this->told)(2, 'protect', $this->name)['error'])->toContain('no source');
});

it('begins anew when whoever made a set was killed, or the line was cut, in the middle', function (): void {
    for ($i = 0; $i < 12; $i++) {
        file_put_contents("{$this->root}/srv/crew/large-$i", random_bytes(5_000_000));
    }
    ($this->install)();
    $folder = Instance::home()."/agents/{$this->made['agent']}";
    $middle = fn (): bool => (glob("$folder/*/piece.[2-9]") ?: []) !== [];
    $killed = Instance::process('protect', $this->name, '--level=full');
    $killed->start();
    while ($killed->isRunning() && ! $middle()) {
        usleep(1000);
    }
    expect($killed->isRunning())->toBeTrue();
    $killed->signal(SIGKILL);
    $killed->wait();
    $cut = Instance::process('protect', $this->name, '--level=full', '--json');
    $cut->start();
    while ($cut->isRunning() && ! $middle()) {
        usleep(1000);
    }
    Instance::control('stop', 'nginx');
    sleep(2);
    Instance::control('start', 'nginx');
    $cut->wait();
    expect($cut->getExitCode())->toBe(0, $cut->getOutput());
    $set = json_decode($cut->getOutput(), true)['set'];
    expect((new Process(['diff', '-r', '--exclude=pipe', ($this->unpacked)([$set]).'/srv/crew', "{$this->root}/srv/crew"]))->run())->toBe(0)
        ->and(glob(Instance::home()."/stores/boathouse/{$this->name}/*.partial"))->toBe([])
        ->and(array_column(($this->told)(0, 'points', $this->name)['points'], 'usable'))->toBe(['whole'])
        ->and(is_dir($folder))->toBeFalse();
});
