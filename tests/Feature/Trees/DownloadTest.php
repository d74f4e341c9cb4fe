<?php

declare(strict_types=1);

use App\Models\Run;
use Tests\Support\Desk;
use Tests\Support\TreeListing;

// What comes out is unpacked with GNU tar, unzip and b2sum.

beforeEach(function (): void {
    $this->desk = new Desk(
        $this,
        function ($a): void {
            $a->put('rosters/week-47.csv', 'the good one')->put('big', random_bytes(6 << 20))->put('empty', '')->put('odd name é', 'odd');
            link("{$a->source}/big", "{$a->source}/second name of big");
            symlink('../nowhere', "{$a->source}/rosters/link");
            chmod("{$a->source}/rosters", 0711);
        },
        fn ($a) => $a->put('later', 'later'),
    );
    $this->order = function (string $kind): Run {
        $this->desk->into($kind, ['tree']);
        $this->actingAs($this->desk->operator)
            ->post("{$this->desk->url}/run", ['order' => $this->desk->order()])
            ->assertSessionHasNoErrors();

        return Run::query()->latest('id')->firstOrFail();
    };
});

it('sends a tar.gz that GNU tar gives back as it was, with a manifest that b2sum takes', function (): void {
    $run = ($this->order)('download-tar');
    $response = $this->get("/runs/{$run->id}/download")
        ->assertOk()
        ->assertHeader('Content-Disposition', "attachment; filename=\"request-{$this->desk->request->id}-run-{$run->id}.tar.gz\"");
    $file = $this->scratch()->file('download.tar.gz', $response->streamedContent());
    $out = $this->scratch()->folder('out');
    $this->scratch()->run('tar', '-xzpf', $file, '-C', $out);
    $this->scratch()->run('sh', '-c', 'cd "$1" && b2sum --length=256 --check --strict kaiseki-manifest.b2sum', 'sh', $out);
    unlink("$out/kaiseki-manifest.b2sum");
    $this->kaiseki('restore', 'crew', '--point='.$this->desk->sets[0], '--path=/tree', "--to={$this->scratch()->path}/restored");
    expect(TreeListing::of($out))->toBe(TreeListing::of("{$this->scratch()->path}/restored"));
    expect($run->refresh()->state)->toBe('done')->and($run->outcome['right'])->toBeTrue()->and($run->files_done)->toBe(5);
    // Nothing was proven of the point: what arrived is for the receiver to check.
    expect(Run::provenOf($run->workload))->toBe(
        array_filter(
            Run::provenOf($run->workload),
            fn (int $id): bool => Run::query()->where('set_id', $id)->where('id', '<>', $run->id)->exists(),
            ARRAY_FILTER_USE_KEY,
        ),
    );
    $this->get("/runs/{$run->id}/download")->assertStatus(409);
});

it('sends a zip that unzip gives back', function (): void {
    $run = ($this->order)('download-zip');
    $file = $this->scratch()->file(
        'download.zip',
        $this->get("/runs/{$run->id}/download")
            ->assertOk()
            ->streamedContent(),
    );
    $out = $this->scratch()->folder('out');
    $this->scratch()->run('unzip', '-q', $file, '-d', $out);
    expect(hash_file('sha256', "$out/tree/big"))
        ->toBe(hash_file('sha256', "{$this->desk->archives->source}/big"))
        ->and(file_get_contents("$out/tree/rosters/week-47.csv"))
        ->toBe('the good one');
    expect(hash_file('sha256', "$out/tree/second name of big"))->toBe(hash_file('sha256', "{$this->desk->archives->source}/big"));
    expect($this->scratch()->run('unzip', '-tq', $file))->toContain('No errors');
});

it('reads another copy for what is damaged, and ends without an end where it cannot', function (): void {
    $run = ($this->order)('download-tar');
    // Ruined in the middle of the large content, of which there is no other copy.
    $this->desk->archives->flip($this->desk->sets[0], intdiv((int) filesize($this->desk->archives->file($this->desk->sets[0])), 2));
    $file = $this->scratch()->file('download.tar.gz', $this->get("/runs/{$run->id}/download")->streamedContent());
    expect(fn () => $this->scratch()->run('gzip', '--test', $file))->toThrow(RuntimeException::class);
    expect($run->refresh()->state)
        ->toBe('failed')
        ->and((string) $run->failure)
        ->toContain('not whole')
        ->and($this->desk->request->refresh()->state)
        ->toBe('open');
});

it('is for those who may have it', function (): void {
    $run = ($this->order)('download-tar');
    $this->actingAs($this->desk->person(App\Models\Role::Requester))
        ->get("/runs/{$run->id}/download")
        ->assertForbidden();
    $this->actingAs($this->desk->person(App\Models\Role::Auditor))
        ->get("/runs/{$run->id}/download")
        ->assertForbidden();
    $this->actingAs($this->desk->requester)
        ->get("/runs/{$run->id}/download")
        ->assertOk();
    expect($this->kaiseki('resume', (string) $run->id)->text)->not->toContain('Something went wrong');
});

it('gives names that lead nowhere on any system, and says which it changed', function (string $kind): void {
    $this->desk->archives
        ->put('..\\..\\evil.bat', 'out')
        ->put("line\nbreak", 'odd')
        ->put('con/aux.txt', 'device')
        ->put('same:', 'one')
        ->put('same_', 'two');
    $this->desk->archives->dump('full');
    $this->kaiseki('adopt', $this->desk->archives->folder, '--as=crew');
    $this->desk->request->update(['wanted_at' => '2026-11-01 00:00:00']);
    $file = $this->scratch()->file('download', $this->get('/runs/'.($this->order)($kind)->id.'/download')->streamedContent());
    $list = $kind === 'download-zip' ? ['zipinfo', '-1', $file] : ['tar', '--quoting-style=literal', '-tzf', $file];
    $listed = explode("\n", trim($this->scratch()->run(...$list)));
    expect($listed)
        ->toContain('tree/.._.._evil.bat', 'tree/line_break', 'tree/_con/_aux.txt', 'tree/same_', 'tree/same_ (2)')
        ->and(implode('', $listed))
        ->not->toContain('\\')
        ->not->toContain(':');
    $out = $this->scratch()->folder('safe');
    $unpack =
        $kind === 'download-zip'
            ? ['sh', '-c', 'LC_ALL=C.UTF-8 exec unzip -q "$1" -d "$2"', 'sh', $file, $out]
            : ['tar', '-xzf', $file, '-C', $out];
    $this->scratch()->run(...$unpack);
    $this->scratch()->run('sh', '-c', 'cd "$1" && b2sum --length=256 --check --strict kaiseki-manifest.b2sum', 'sh', $out);
    $changed = json_decode((string) file_get_contents("$out/kaiseki-names.json"), true);
    expect(rawurldecode($changed['tree/line_break']))
        ->toBe("tree/line\nbreak")
        ->and(rawurldecode($changed['tree/same_ (2)']))
        ->toBe('tree/same:')
        ->and(file_get_contents("$out/tree/same_"))
        ->toBe('two');
})->with(['download-zip', 'download-tar']);
