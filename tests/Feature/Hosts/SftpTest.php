<?php

declare(strict_types=1);

use Tests\Support\Archives;
use Tests\Support\Sshd;
use Tests\Support\TreeListing;

// A real OpenSSH server on loopback, with keys of this test's own.

beforeEach(function (): void {
    $this->sshd = new Sshd($this->scratch());
    $this->far = $this->scratch()->folder('far');
    $this->add = fn (string ...$more) => $this->kaiseki(
        'host-add',
        'far',
        "--sftp={$this->sshd->user}@127.0.0.1:{$this->sshd->port}",
        "--folder={$this->far}",
        "--key={$this->sshd->key}",
        ...$more ?: ["--fingerprint={$this->sshd->fingerprint}"],
        ...['--json'],
    );
});

afterEach(fn () => $this->sshd->stop());

it('tries out what signs in before anything starts', function (): void {
    $other = 'SHA256:'.str_repeat('A', 43);
    expect(($this->add)("--fingerprint=$other"))->code->toBe(3)->text->toContain('another key');
    expect(
        $this->kaiseki(
            'host-add',
            'far',
            "--sftp={$this->sshd->user}@127.0.0.1:{$this->sshd->port}",
            "--folder={$this->far}",
            "--key={$this->sshd->strangersKey()}",
            "--fingerprint={$this->sshd->fingerprint}",
        ),
    )
        ->code->toBe(3)
        ->text->toContain('does not let');
    expect(
        $this->kaiseki(
            'host-add',
            'far',
            '--sftp=nobody@127.0.0.1:1',
            "--folder={$this->far}",
            "--key={$this->sshd->key}",
            "--fingerprint={$this->sshd->fingerprint}",
        ),
    )
        ->code->toBe(3)
        ->text->toContain('does not answer');
    expect($this->kaiseki('host-add', 'far', '--sftp=nobody@127.0.0.1', "--folder={$this->far}"))
        ->code->toBe(2)
        ->text->toContain('fingerprint');
    expect(App\Models\Host::query()->count())->toBe(0);
    expect(($this->add)())
        ->code->toBe(0)
        ->and(scandir($this->far))
        ->toBe(['.', '..']);
});

it('brings a tree to another host, checks it there, and takes it back', function (): void {
    $archives = (new Archives($this->scratch()))
        ->put('a', 'from the archive')
        ->put('sub/b', random_bytes(9 << 20))
        ->put("odd\nname", 'x')
        ->put('empty', '');
    symlink('../a', "{$archives->source}/sub/link");
    link("{$archives->source}/a", "{$archives->source}/sub/second name");
    $archives->scratch->run('truncate', '--size=3M', "{$archives->source}/holes");
    chmod("{$archives->source}/sub", 0711);
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect(($this->add)())->code->toBe(0)->text->toContain('works');
    $this->scratch()->file('far/in/tree/a', 'was there');
    $before = TreeListing::of($this->far);
    $restore = fn (string ...$more) => $this->kaiseki(
        'restore',
        'tree',
        '--at=2026-11-01T00:00:00Z',
        '--path=/',
        '--host=far',
        '--to=/in',
        '--conflict=replace',
        '--json',
        ...$more,
    );
    expect(
        $this->kaiseki(
            'preview',
            'tree',
            '--at=2026-11-01T00:00:00Z',
            '--path=/',
            '--host=far',
            '--to=/in',
            '--conflict=replace',
            '--json',
        )->json()['counts']['replaced']['entries'],
    )->toBe(1);
    $done = $restore();
    expect($done->code)->toBe(0, $done->text);
    $now = TreeListing::of("{$this->far}/in", false);
    unset(
        $now[".kaiseki-set-aside-{$done->json()['run']}"],
        $now[".kaiseki-set-aside-{$done->json()['run']}/tree"],
        $now[".kaiseki-set-aside-{$done->json()['run']}/tree/a"],
    );
    // The protocol has no way to set the time of a link; the folder that was there keeps its own.
    $comparable = fn (array $listing): array => array_map(
        fn (string $about): string => $about[0] === 'l' ? (string) preg_replace('/ -?\d+(?= )/', '', $about) : $about,
        array_diff_key($listing, ['tree' => 1]),
    );
    expect($comparable($now))->toBe($comparable(TreeListing::of(dirname($archives->source), false)));
    expect($this->kaiseki('put-back', (string) $done->json()['run'], '--json')->code)->toBe(0);
    $seconds = fn (array $listing): array => array_map(
        fn (string $about): string => (string) preg_replace('/\.\d+/', '', $about),
        $listing,
    );
    expect($seconds(TreeListing::of($this->far)))->toBe($seconds($before));
});

it('gives permissions alone on the other host, and says of what had a list that it has none', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'a')->put('sub/b', 'b')->put('sub/listed', 'l');
    chmod("{$archives->source}/sub", 0711);
    chmod("{$archives->source}/a", 0640);
    $this->scratch()->run('setfacl', '--modify', 'user:daemon:r--', "{$archives->source}/sub/listed");
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect(($this->add)()->code)->toBe(0);
    $order = ['restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', '--host=far', '--to=/in', '--json'];
    $whole = $this->kaiseki(...$order)->json();
    expect($whole['left_out'])->toHaveCount(1)
        ->and($whole['left_out'][0])->toMatchArray(['path' => 'tree/sub/listed', 'loss' => false])
        ->and($whole['left_out'][0]['because'])->toContain('access lists cannot be given over SFTP');
    $then = TreeListing::of("{$this->far}/in");
    chmod("{$this->far}/in/tree/sub", 0777);
    chmod("{$this->far}/in/tree/a", 0666);
    $run = $this->told(4, ...array_diff($order, ['--json']), ...['--only-permissions']);
    expect(TreeListing::of("{$this->far}/in"))->toBe($then)
        ->and($run['left_out'])->toBe([
            ['path' => 'tree/sub/listed', 'because' => 'it had an access list, and this host takes none', 'loss' => true],
        ]);
});

it('goes through no link on the other host, and not out of its folder', function (): void {
    $archives = (new Archives($this->scratch()))->put('sub/b', 'b');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect(($this->add)())->code->toBe(0)->text->toContain('works');
    $outside = $this->scratch()->folder('outside');
    mkdir("{$this->far}/tree");
    symlink($outside, "{$this->far}/tree/sub");
    $done = $this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', '--host=far', '--to=/', '--json');
    expect($done->code)
        ->toBe(0, $done->text)
        ->and(scandir($outside))
        ->toBe(['.', '..']);
    expect(file_get_contents("{$this->far}/tree/sub (2026-10-01 0200)/b"))->toBe('b');
    expect($this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', '--host=far', '--to=/../outside'))
        ->code->toBe(3)
        ->text->toContain('leads out');
});

it('says so when the host is gone, and leaves nothing half done', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'a');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect(($this->add)())->code->toBe(0)->text->toContain('works');
    $this->sshd->stop();
    $answer = $this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', '--host=far', '--to=/in', '--json');
    expect($answer->code)->toBe(3)->and($answer->json()['error'])->toContain('does not answer');
    expect(scandir($this->far))->toBe(['.', '..']);
});

it('goes through no link on the other host either', function (): void {
    (new Archives($this->scratch()))->put('job', 'evil')->dump('full');
    $this->kaiseki('adopt', "{$this->scratch()->path}/archives", '--as=tree');
    expect(($this->add)())->code->toBe(0);
    $outside = $this->scratch()->folder('cron.d');
    symlink($outside, "{$this->far}/jobs");
    foreach (['/jobs', '/jobs/deeper'] as $to) {
        $answer = $this->kaiseki(
            'restore',
            'tree',
            '--at=2026-11-01T00:00:00Z',
            '--path=/',
            '--host=far',
            "--to=$to",
            '--conflict=replace',
            '--json',
        );
        expect($answer->code)->toBe(3)->and($answer->json()['error'])->toContain('link');
    }
    expect(glob("$outside/*") ?: [])->toBe([]);
});
