<?php

declare(strict_types=1);

use Kaiseki\Core\Bag\Bag;
use Tests\Support\Scratch;

it('makes what RFC 8493 shows, section 4.1 (its example of a basic bag)', function (): void {
    $bag = new Bag;
    $bag->add('data/27613-h/images/q172.png', str_repeat('0', 64), 10);
    $bag->add("data/odd % name\nof two lines", str_repeat('1', 64), 5);
    $files = $bag->files(['Source-Organization' => 'Sorrel Sound Ferries', 'External-Description' => str_repeat('word and ', 30)],
        ['list.csv' => 'x']);
    expect($files['bagit.txt'])->toBe("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n")
        ->and($files[Bag::MANIFEST])->toContain('  data/odd %25 name%0Aof two lines')
        ->and($files['bag-info.txt'])->toContain("Payload-Oxum: 15.2\n")
        ->and(max(array_map(mb_strlen(...), explode("\n", $files['bag-info.txt']))))->toBeLessThan(80)
        ->and(array_key_last($files))->toBe(Bag::TAG_MANIFEST)
        ->and(Bag::read($files[Bag::MANIFEST]))->toBe([
            'data/27613-h/images/q172.png' => str_repeat('0', 64), "data/odd % name\nof two lines" => str_repeat('1', 64),
        ])
        ->and(array_keys(Bag::read($files[Bag::TAG_MANIFEST])))->toBe(['bagit.txt', 'bag-info.txt', Bag::MANIFEST, 'list.csv']);
});

it('is right by sha256sum', function (): void {
    $scratch = new Scratch;
    $bag = new Bag;
    foreach (['data/a.eml' => 'one', 'data/b c/ü.eml' => 'two'] as $path => $content) {
        $scratch->file("bag/$path", $content);
        $bag->add($path, hash('sha256', $content), strlen($content));
    }
    foreach ($bag->files(['Contact-Name' => 'Ines Varga'], ['list.csv' => "a,b\r\n"]) as $name => $content) {
        $scratch->file("bag/$name", $content);
    }
    $check = "cd {$scratch->path}/bag && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt && echo right";
    expect($scratch->run('sh', '-c', $check))->toContain('right');
    $scratch->remove();
});
