<?php

declare(strict_types=1);

use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Kaiseki\StandIns\SorrelSoundFiles;
use Tests\Support\Scratch;
use Tests\Support\TreeListing;

beforeEach(function (): void {
    $this->scratch = new Scratch;
});

afterEach(function (): void {
    $this->scratch->remove();
});

it('lives by a clock of its own', function (): void {
    $host = new FileHost($this->scratch->folder('host'));
    $host->setClock(Instant::parse('2026-10-04T01:15:00Z'));
    expect($host->now()->iso())
        ->toBe('2026-10-04T01:15:00Z')
        ->and(is_dir($host->root()))
        ->toBeTrue();
    expect(FileHost::of($host->root())?->now()->iso())->toBe('2026-10-04T01:15:00Z');
    expect(FileHost::of($this->scratch->folder('elsewhere/files')))->toBeNull();
    unlink("{$host->folder}/clock");
    expect(fn () => $host->now())->toThrow(RuntimeException::class, 'clock');
});

it('has the same life from the same seed, times included', function (): void {
    $day = new DateTimeImmutable('2026-10-12 00:00 UTC');
    $listings = [];
    foreach (['one', 'two'] as $name) {
        $files = new SorrelSoundFiles($this->scratch->folder($name), 7);
        $files->begin($day);
        foreach (range(1, 12) as $number) {
            $files->live($day->modify("+$number days"), $number);
        }
        // Zip archives hold nothing but what they were given; hard links and times are compared too.
        $listings[] = TreeListing::of("{$this->scratch->path}/$name");
    }
    expect(count($listings[0]))->toBeGreaterThan(3000);
    expect(array_diff_assoc($listings[0], $listings[1]))->toBe([]);
});

it('writes, overwrites, deletes, moves, and scrambles', function (): void {
    $day = new DateTimeImmutable('2026-10-12 00:00 UTC');
    $root = $this->scratch->folder('host');
    $files = new SorrelSoundFiles($root);
    $files->begin($day);
    $before = TreeListing::of($root, true, false);
    foreach (range(1, 10) as $number) {
        $files->live($day->modify("+$number days"), $number);
    }
    $after = TreeListing::of($root, true, false);
    $only = fn (array $listing): array => array_filter($listing, fn (string $about): bool => $about[0] === 'f');
    expect(array_diff_key($only($after), $only($before)))->not->toBe([]);
    expect(array_diff_key($only($before), $only($after)))->not->toBe([]);
    expect(
        array_filter(
            array_intersect_key($only($after), $only($before)),
            fn (string $about, string $path): bool => $before[$path] !== $about,
            ARRAY_FILTER_USE_BOTH,
        ),
    )->not->toBe([]);
    expect(is_dir("$root/sailings/archive"))->toBeTrue();
    $count = $files->scramble($day->modify('+11 days'));
    expect($count)->toBeGreaterThan(40)->and(glob("$root/handbooks/*/*.zzx"))->toHaveCount($count);
    $files->unscramble($day->modify('+12 days'));
    expect(glob("$root/handbooks/*/*.zzx"))->toBe([])->and(glob("$root/handbooks/*/*.txt"))->toHaveCount($count);
});

it('makes sheets that are zip archives, and rosters for the week that follows', function (): void {
    $tuesday = new DateTimeImmutable('2026-11-17 00:00 UTC');
    $root = $this->scratch->folder('host');
    (new SorrelSoundFiles($root))->begin($tuesday->modify('+1 day'));
    $path = SorrelSoundFiles::rosterPath(new DateTimeImmutable('2026-11-23 00:00 UTC'));
    expect($path)->toBe('crew/rosters/2026/week-48-crew.csv')->and(is_file("$root/$path"))->toBeTrue();
    expect(date('Y-m-d H:i', (int) filemtime("$root/$path")))->toBe('2026-11-17 14:20');
    $zip = new ZipArchive;
    expect($zip->open("$root/".substr($path, 0, -4).'.ods', ZipArchive::CHECKCONS))->toBeTrue();
    expect($zip->getFromName('mimetype'))->toBe('application/vnd.oasis.opendocument.spreadsheet');
});
