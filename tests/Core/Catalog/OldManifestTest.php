<?php

declare(strict_types=1);

use Kaiseki\Core\Catalog\ArchiveScan;

it('goes back to where a member begins in manifests that told the bytes written until then', function (): void {
    $digest = fn (string $of): string => sodium_crypto_generichash($of, '', 32);
    $lines = [];
    foreach (['a' => [0, 512], 'b' => [10, 140_000], 'c' => [4_000, 0], 'd' => [5_200, 150_000], 'e' => [4_000, 9]] as $name => $at) {
        $lines[] = json_encode([
            'path' => "./$name", 'type' => 'file', 'size' => 3, 'mode' => '0600', 'uid' => 8, 'gid' => 8,
            'uname' => 'mail', 'gname' => 'mail', 'mtime' => '1790000000.000000000',
            'blake2b_256' => bin2hex($digest($name)), 'in' => 'here', 'member' => $at[0], 'within' => $at[1],
        ]);
    }
    $scan = ArchiveScan::ofManifest($lines);
    $scan->mendPlaces(fn (int $offset): bool => in_array($offset, [0, 4_000], true));
    $found = [];
    foreach ($scan->places as $packed) {
        $found[] = [substr($packed, 0, 32), ...array_values(unpack('J2', $packed, 32))];
    }
    expect($found)->toBe([
        [$digest('a'), 0, 512], [$digest('b'), 0, 140_000], [$digest('c'), 4_000, 0], [$digest('d'), 4_000, 150_000],
        [$digest('e'), 4_000, 9],
    ]);
});
