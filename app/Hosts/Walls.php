<?php

declare(strict_types=1);

namespace App\Hosts;

use App\Instance;
use App\Models\Host;
use Kaiseki\Core\Files\UnableToRestore;

/**
 * Whether the desk is walled off from this machine. Then it has no rights of its own in folders of hosts: for each folder that root gave
 * there is a process that has (docs/security.md).
 */
final class Walls
{
    /** The name of this machine where no host is named. */
    public const HERE = 'here';

    /** Hundredths of a second in which a process that was begun for one command is there. */
    private const BEGINS = 2000;

    public static function stand(): bool
    {
        return is_file(Instance::path('walls'));
    }

    /**
     * Where the process is reached that opens a folder.
     *
     * @throws UnableToRestore if it lies in nothing that was given
     */
    public static function socket(?Host $host, string $folder): string
    {
        $around = array_filter(
            self::given(),
            fn (array $given): bool => $given[0] === ($host->name ?? self::HERE) && Host::isWithin($folder, $given[1]),
        );
        usort($around, fn (array $a, array $b): int => strlen($b[1]) <=> strlen($a[1]));
        if ($around === []) {
            throw UnableToRestore::targetUnfit(
                $folder,
                'it lies in no folder that root gave to Kaiseki on this host (bin/kaiseki roots lists them; '.
                    'at the terminal --root=FOLDER gives one for one command)',
            );
        }
        [$name, $root, $key] = $around[0];
        $socket = Instance::path('host/'.substr(md5("$key\t$root"), 0, 16).'.sock');
        for ($i = 0; $i < self::BEGINS && $key !== $name && ! file_exists($socket); $i++) {
            usleep(10_000); // begun beside this command
        }

        return $socket;
    }

    /** @return list<array{string, string, string}> name of the host, folder of it that was given, and the name it was given under */
    public static function given(): array
    {
        $given = [];
        foreach (@file(Instance::path('given'), FILE_IGNORE_NEW_LINES) ?: [] as $line) {
            [$host, $folder] = [...explode("\t", $line, 2), ''];
            $given[] = [$host, $folder, $host];
        }
        // By root, for this command alone.
        $once = array_filter(explode("\n", (string) getenv('KAISEKI_GIVEN')));
        foreach (array_slice($once, 1) as $folder) {
            $given[] = [self::HERE, $folder, $once[0]];
        }

        return $given;
    }
}
