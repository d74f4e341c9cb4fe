<?php

declare(strict_types=1);

use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Volume\Fat;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\Scratch;

/* mtools as the oracle: mformat and mcopy make the volumes, and what was copied in must come out. */

beforeEach(function (): void {
    $this->scratch = new Scratch;
});
afterEach(fn () => $this->scratch->remove());

/** @return array<array-key, string> path => digest of its content */
function filesOf(FileSystem $volume, ?FoundFile $folder = null, string $path = ''): array
{
    $found = [];
    foreach ($volume->children($folder ?? $volume->root()) as $name => $file) {
        $at = EntryPath::join($path, (string) $name);
        $content = implode('', iterator_to_array($volume->content($file), false));
        $found += $file->version->kind->value === 'd' ? filesOf($volume, $file, $at) : [$at => md5($content)];
    }

    return $found;
}

/** A volume with a tree in it. @return array<array-key, string> path => digest */
function makeFat(Scratch $scratch, string $image, string ...$format): array
{
    $random = new Randomizer(new Mt19937(4));
    $tools = ['MTOOLS_SKIP_CHECK' => '1', 'MTOOLSRC' => '/dev/null', 'LC_ALL' => 'C.UTF-8'];
    (new Process(['mformat', '-i', $image, '-C', '-v', 'BOOT', ...$format, '::'], null, $tools))->mustRun();
    $expected = [];
    $names = ['EFI/BOOT/BOOTX64.EFI', 'EFI/a long name with spaces and a dot.config', 'EFI/Ångström ferry.txt', 'small.txt', 'empty'];
    foreach ([...$names, ...array_map(fn (int $i): string => "many/file number $i.dat", range(1, 150))] as $name) {
        $content = $name === 'empty' ? '' : $random->getBytes($random->getInt(1, 9000));
        $scratch->file("tree/$name", $content);
        $expected[$name] = md5($content);
    }
    foreach (glob($scratch->at('tree/*')) ?: [] as $one) {
        (new Process(['mcopy', '-i', $image, '-s', '-m', '-Q', $one, '::'], null, $tools))->mustRun();
    }
    ksort($expected);

    return $expected;
}

it('gives what was copied in, under its long names', function (string $type, array $format): void {
    $image = $this->scratch->at('volume');
    $expected = makeFat($this->scratch, $image, ...$format);
    $volume = Fat::on(Disks::raw($image)) ?? throw new LogicException('no file system');
    $found = filesOf($volume);
    ksort($found);
    expect($found)->toBe($expected)
        ->and($volume->child($volume->root(), 'small.txt')?->version->kind->value)->toBe('f')
        ->and($volume->child($volume->root(), 'SMALL'))->toBeNull()
        ->and($volume->type())->toBe($type)
        ->and($volume->label())->toBe('BOOT');
})->with([
    'FAT12' => ['FAT12', ['-T', '5760']],
    'FAT16' => ['FAT16', ['-T', '65536']],
    'FAT32' => ['FAT32', ['-T', '140000', '-F', '-c', '1']],
]);

it('ends, and says what is wrong, whatever bytes are other ones', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $image = $this->scratch->at('volume');
    makeFat($this->scratch, $image, '-T', '5760');
    $bytes = (string) file_get_contents($image);
    for ($i = 0; $i < 60; $i++) {
        $changed = $bytes;
        for ($n = 0; $n < 15; $n++) {
            $at = $random->getInt(0, 2) === 0 ? $random->getInt(3, 60) : $random->getInt(512, 30_000);
            $changed[$at] = chr($random->getInt(0, 255));
        }
        file_put_contents($image, $changed);
        try {
            $volume = Fat::on(Disks::raw($image));
            $queue = $volume === null ? [] : [$volume->root()];
            for ($seen = 0; $queue !== [] && $seen < 50; $seen++) {
                foreach ($volume->children(array_shift($queue)) as $file) {
                    $queue[] = $file;
                    foreach ($volume->content($file) as $piece) {
                        expect(strlen($piece))->toBeLessThanOrEqual(1 << 20);
                    }
                }
            }
        } catch (UnreadableVolume|UnreadableImage $wrong) {
            expect($wrong->getMessage())->not->toBe('');
        }
    }
    expect(true)->toBeTrue();
})->with([1, 2]);
