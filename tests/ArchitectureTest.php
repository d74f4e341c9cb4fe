<?php

declare(strict_types=1);

use Symfony\Component\Finder\Finder;
use Symfony\Component\Process\Process;
use Tests\Support\Rooms;

arch('core knows neither the framework, nor the application, nor the stand-ins')
    ->expect('Kaiseki\Core')
    ->not->toUse(['Illuminate', 'App', 'Kaiseki\StandIns', 'Laravel', 'Symfony\Component\Process']);

arch('stand-ins do not know the application')
    ->expect('Kaiseki\StandIns')
    ->not->toUse(['App', 'Illuminate']);

arch('everything is strict')
    ->expect(['App', 'Kaiseki\Core', 'Kaiseki\StandIns'])
    ->toUseStrictTypes();

arch('nothing talks to people but the pages and the command line')
    ->expect(['dd', 'dump', 'var_dump', 'print_r', 'die'])
    ->not->toBeUsed();

arch('no shell is ever asked')
    ->expect(['shell_exec', 'exec', 'system', 'passthru', 'popen', 'proc_open'])
    ->not->toBeUsed();

it('lets nothing outside a kind\'s folder name a class or a view of it', function (): void {
    expect(Rooms::namingKinds())->toBe([]);
});

it('lets nothing outside a kind\'s folder compare the name of a kind', function (): void {
    expect(Rooms::comparingKinds())->toBe([]);
});

it('lets no kind reach into another', function (): void {
    $uses = Rooms::uses();
    foreach (array_filter(array_keys($uses), fn (string $room): bool => str_starts_with($room, 'Kinds\\')) as $kind) {
        expect(array_values(array_filter(array_keys($uses[$kind]), fn (string $room): bool => str_starts_with($room, 'Kinds\\'))))->toBe(
            [],
            $kind,
        );
    }
});

it('has the rooms of the application use each other as the map says, and in no circle', function (): void {
    $uses = Rooms::uses();
    $map = Rooms::ofTheMap();
    foreach ($uses as $room => $used) {
        if (! str_starts_with($room, 'Kinds\\') && ! in_array($room, Rooms::EVERYWHERE, true)) {
            $undeclared = array_diff(array_keys($used), $map[$room] ?? [], Rooms::EVERYWHERE);
            expect(
                array_map(
                    fn (string $other): string => "$room -> $other: ".implode(', ', array_slice($used[$other], 0, 3)),
                    array_values($undeclared),
                ),
            )->toBe([]);
        }
    }
    expect(Rooms::circles($uses))->toBe([]);
});

it('has no line over 140 characters', function (): void {
    $root = dirname(__DIR__);
    $git = new Process(['git', 'ls-files', '--cached', '--others', '--exclude-standard', '-z'], $root);
    $long = [];
    foreach (explode("\0", trim($git->mustRun()->getOutput(), "\0")) as $file) {
        $isOurs =
            preg_match('~\.(php|scss|js|xml|neon|sh)$|^bin/|^\.ci/~', $file) === 1 && preg_match('~\.min\.|^public/assets/~', $file) !== 1;
        foreach ($isOurs && is_file("$root/$file") ? (file("$root/$file", FILE_IGNORE_NEW_LINES) ?: []) : [] as $number => $line) {
            if (mb_strlen($line) > 140) {
                $long[] = $file.':'.($number + 1);
            }
        }
    }
    expect($long)->toBe([]);
});

it('throws no bare exception: each is a class that says where and why', function (): void {
    $bare = [];
    foreach (['app', 'core'] as $folder) {
        foreach (Finder::create()->files()->in(dirname(__DIR__)."/$folder")->name('*.php') as $file) {
            $text = $file->getContents();
            $isConsole = str_contains($text, 'use Symfony\\Component\\Console\\Exception\\RuntimeException;');
            if (! $isConsole && preg_match('/new \\\\?(RuntimeException|Exception)\(/', $text) === 1) {
                $bare[] = "$folder/{$file->getRelativePathname()}";
            }
        }
    }
    expect($bare)->toBe([]);
});
