<?php

declare(strict_types=1);

use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Kinds\Need;
use App\Models\Role;
use App\Models\Workload;
use Symfony\Component\Process\ExecutableFinder;
use Symfony\Component\Process\Process;

it('lists the kinds, what each needs, and whether that is there', function (): void {
    $this->actingAs($this->person(Role::Operator))
        ->get('/kinds')
        ->assertOk()
        ->assertSeeInOrder(['files', '0 workloads', 'bsdtar', 'there', 'database', 'mariadb-binlog', 'mariadb-client', 'there'])
        ->assertDontSee('Install what is missing');
    $listed = $this->kaiseki('kinds', '--json')->json()['kinds'];
    expect(array_column($listed, 'name'))->toBe(array_keys(Kinds::all()));
    expect($listed[1]['needs'][0])->toMatchArray(['program' => 'mariadb-dump', 'package' => 'mariadb-client', 'there' => true]);
    expect($this->kaiseki('kinds')->text)->toContain('mariadb-dump, of mariadb-client');
});

it('names every program that a kind starts', function (): void {
    $started = [];
    foreach (glob(app_path('Kinds/*/*/*.php')) ?: [] as $file) {
        preg_match_all("/\\['(mariadb[a-z-]*|bsdtar|qemu-img|e2fsck|fsck\\.fat|debugfs)'/", (string) file_get_contents($file), $found);
        $started = [...$started, ...$found[1]];
    }
    $needs = array_merge(...array_map(fn (Kind $kind): array => $kind->needs(), array_values(Kinds::all())));
    expect(array_diff(array_unique($started), array_map(fn (Need $need): string => $need->program, $needs)))->toBe([]);
    foreach ($needs as $need) {
        expect(packagesWith($need->program))->toContain($need->package);
    }
});

/** @return list<string> Debian packages that have a program, as dpkg knows (dpkg-query(1)) */
function packagesWith(string $program): array
{
    $path = (string) realpath((string) (new ExecutableFinder)->find($program, null, ['/usr/sbin']));
    // It may know it by /sbin, and that be /usr/sbin now.
    $search = new Process(['dpkg', '--search', '*bin/'.basename($path)]);
    preg_match_all('/^([a-z0-9.+-]+)[^ ]*: /m', $search->mustRun()->getOutput(), $found);

    return $found[1];
}

it('says how to install what is missing, and what is with workloads of a kind that is not there', function (): void {
    $missing = new Need('no-such-program', 'nothing-of-that-name', 2, 'nothing');
    expect(Need::command([$missing, $missing, new Need('sh', 'dash', 1, 'x')]))
        ->toBe('apt-get install nothing-of-that-name')
        ->and(Need::command([new Need('sh', 'dash', 1, 'x')]))
        ->toBeNull();
    Workload::query()->create(['name' => 'old-jars', 'kind' => 'pickles']);
    $this->actingAs($this->person(Role::Operator))
        ->get('/kinds')
        ->assertSeeInOrder(['pickles', '1 workload', 'This kind is not installed here']);
});
