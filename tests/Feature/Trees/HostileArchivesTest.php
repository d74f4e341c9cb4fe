<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\TarBytes;

// Archives made to do harm: each is adopted and restored whole into an empty folder beside a folder that must stay as it
// is. Whatever becomes of it, nothing outside the target is written, changed or read, and each ends with words.

/** @return array<string, array{callable(string): TarBytes, string}> */
dataset(
    'hostile',
    fn (): array => [
        'a name that leads up' => [
            fn (string $outside): TarBytes => TarBytes::new()->member('ok', 'x')->member('../outside/hurt', 'x'),
            'leads out of its folder',
        ],
        'a name that leads up in the middle' => [
            fn (string $outside): TarBytes => TarBytes::new()->member('ok', 'x')->member('a/../../outside/hurt', 'x'),
            'leads out of its folder',
        ],
        'an absolute name' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->member("$outside/hurt", 'x'),
            '',
        ],
        'a NUL in a pax name' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->pax(['path' => "a\0b"])
                ->member('x', 'x'),
            'NUL',
        ],
        'control characters' => [
            fn (string $outside): TarBytes => TarBytes::new()->member("\x1b]0;owned\x07\x1b[2J", 'x')->member("a\r\nb", 'x'),
            '',
        ],
        'a part that is too long' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->pax(['path' => str_repeat('n', 300)])
                ->member('x', 'x'),
            'longer than 255 bytes',
        ],
        'ten thousand folders deep' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->pax(['path' => str_repeat('d/', 10_000).'f'])
                ->member('x', 'x'),
            'folders deep',
        ],
        'written through a link' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('door', '', '2', ['link' => $outside])
                ->member('door/hurt', 'x'),
            '',
        ],
        'first a link, then a folder' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('door', '', '2', ['link' => $outside])
                ->member('door', '', '5')
                ->member('door/hurt', 'x'),
            '',
        ],
        'first a folder, then a link' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('door', '', '5')
                ->member('door/hurt', 'x')
                ->member('door', '', '2', ['link' => $outside]),
            '',
        ],
        'a hard link to outside' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->member('hard', '', '1', ['link' => '../outside/secret']),
            '',
        ],
        'a hard link to outside by a whole path' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->member('hard', '', '1', ['link' => "$outside/secret"]),
            '',
        ],
        'the same name twice' => [
            fn (string $outside): TarBytes => TarBytes::new()->member('twice', 'first')->member('twice', 'second'),
            '',
        ],
        'devices' => [
            fn (string $outside): TarBytes => TarBytes::new()->member('ok', 'x')->member('null', '', '3')->member('disk', '', '4'),
            '',
        ],
        'set-user bits' => [fn (string $outside): TarBytes => TarBytes::new()->member('suid', 'x', '0', ['mode' => "0006755\0"]), ''],
        'a header that claims 8 EiB' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->member('huge', '', '0', ['size' => "\x80\0\0\0\x7f\xff\xff\xff\xff\xff\xff\xff"]),
            'refused',
        ],
        'a pax header of a gigabyte' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->member('PaxHeaders/x', '', 'x', ['size' => sprintf("%011o\0", 1 << 30)])
                ->raw(str_repeat("\0", 4096)),
            'refused',
        ],
        'a sparse map that overlaps' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->pax(['GNU.sparse.major' => '1', 'GNU.sparse.minor' => '0', 'GNU.sparse.name' => 'holes', 'GNU.sparse.realsize' => '4096'])
                ->member('holes', str_pad("2\n0\n2048\n1024\n2048\n", 512, "\0").str_repeat('x', 4096)),
            '',
        ],
        'a sparse file that claims a whole disk' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->pax([
                    'GNU.sparse.major' => '1',
                    'GNU.sparse.minor' => '0',
                    'GNU.sparse.name' => 'holes',
                    'GNU.sparse.realsize' => (string) (1 << 62),
                ])
                ->member('holes', str_pad("0\n", 512, "\0")),
            'refused',
        ],
        'numbers in pax that are none' => [
            fn (string $outside): TarBytes => TarBytes::new()
                ->member('ok', 'x')
                ->pax(['size' => '-5', 'mtime' => 'NaN', 'uid' => '99999999999999999999'])
                ->member('odd', 'x'),
            '',
        ],
    ],
);

/** Everything about it, when it was read included; find itself reads the folder. */
function outsideOf(Tests\Support\Scratch $scratch, string $outside): string
{
    return $scratch->run('find', $outside, '-type', 'd', '-printf', '%p %m %T@ %n\n', '-o', '-printf', '%p %m %s %T@ %A@ %n\n');
}

it('is not hurt by', function (callable $archive, string $says): void {
    $outside = $this->scratch()->folder('outside');
    $this->scratch()->file('outside/secret', 'not yours');
    chmod("$outside/secret", 0600);
    $before = outsideOf($this->scratch(), $outside);
    $folder = $this->scratch()->folder('hostile');
    $out = $this->scratch()->folder('out');
    $archive($outside)->write("$folder/h.full.20261001T020000Z.tar");
    $adopted = $this->kaiseki('adopt', $folder, '--as=h', '--json');
    expect($adopted->code)->toBeLessThanOrEqual(2, $adopted->text)->not->toBe(1);
    $told = $adopted->text;
    if ($adopted->code === 0) {
        $restored = $this->kaiseki('restore', 'h', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$out", '--conflict=replace', '--json');
        expect($restored->code)->not->toBe(1, $restored->text);
        $told .= $restored->text;
        // Once more over what stands there now.
        expect(
            $this->kaiseki('restore', 'h', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$out", '--conflict=replace', '--json')->code,
        )->not->toBe(1);
    }
    expect(outsideOf($this->scratch(), $outside))->toBe($before);
    expect(trim($this->scratch()->run('find', $out, '(', '-type', 'b', '-o', '-type', 'c', '-o', '-perm', '/6000', ')', '-print')))->toBe(
        '',
    );
    if ($says !== '') {
        expect($told)->toContain($says);
    }
    // No byte of it reaches a terminal as anything but text.
    expect(preg_match('/[\x00-\x08\x0b-\x1f\x7f]/', $told))->toBe(0);
})->with('hostile');

it('keeps the last of two members of one name, as tar does', function (): void {
    $folder = $this->scratch()->folder('hostile');
    TarBytes::new()
        ->member('twice', 'first')
        ->member('twice', 'second')
        ->write("$folder/h.full.20261001T020000Z.tar");
    $this->kaiseki('adopt', $folder, '--as=h');
    $out = $this->scratch()->folder('out');
    $theirs = $this->scratch()->folder('theirs');
    $this->kaiseki('restore', 'h', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$out");
    $this->scratch()->run('tar', '-xf', "$folder/h.full.20261001T020000Z.tar", '-C', $theirs);
    expect(file_get_contents("$out/twice"))->toBe(file_get_contents("$theirs/twice"));
});

it('tells a bomb by how far it unpacks, takes it only where that is meant, and holds little of it', function (): void {
    $folder = $this->scratch()->folder('bomb');
    // 300 MiB of zeros behind one honest file, in about 300 KiB.
    $process = Process::fromShellCommandline(
        '{ cat; head -c 314572800 /dev/zero; head -c 10240 /dev/zero; } | gzip -9 > "$FILE"',
        null,
        ['FILE' => "$folder/b.full.20261001T020000Z.tar.gz"],
        TarBytes::new()
            ->member('ok', 'x')
            ->member('zeros', '', '0', ['size' => sprintf("%011o\0", 314_572_800)])
            ->bytesWithoutEnd(),
        120,
    );
    $process->mustRun();
    memory_reset_peak_usage();
    $before = memory_get_usage();
    $answer = $this->kaiseki('adopt', $folder, '--as=b', '--json');
    expect($answer->text)
        ->toContain('more than 200 times its size')
        ->and(memory_get_peak_usage() - $before)
        ->toBeLessThan(96 << 20);
    expect($answer->json()['sets'][0]['cataloged'] ?? 'refused')->not->toBe('whole');
    $meant = $this->kaiseki('adopt', $folder, '--as=b-meant', '--ratio=2000', '--json');
    expect($meant->json()['sets'][0]['cataloged'] ?? '')->toBe('whole', $meant->text);
});
