<?php

declare(strict_types=1);

namespace App\Hosts;

use App\Instance;
use App\Models\Host;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\PlainLook;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Host\HostFolder;

/** The machines that things are brought back to. No host is this machine itself. */
final class Hosts
{
    /**
     * A folder to write to; it is made if only its last part is missing. It lies in a folder that is given to us ($root), and
     * below that no link is gone through.
     *
     * @throws UnableToRestore if the host does not answer, or the folder cannot be used
     */
    public static function target(?Host $host, string $folder, string $root): Target
    {
        return match (true) {
            $host?->kind === 'sftp' => SftpFolder::make($host, self::key($host), $folder),
            Walls::stand() => HostFolder::open(Walls::socket($host, $folder), $folder, true),
            default => FolderBelow::make($folder, $root),
        };
    }

    /**
     * A folder to look at; it need not be there.
     *
     * @throws UnableToRestore if the host does not answer
     */
    public static function look(?Host $host, string $folder, string $root): Look
    {
        return match (true) {
            $host?->kind === 'sftp' => SftpFolder::at($host, self::key($host), $folder),
            Walls::stand() => HostFolder::look(Walls::socket($host, $folder), $folder),
            default => new PlainLook($folder, $root, PrintedLists::of(...)),
        };
    }

    /** The original of a workload as it stands here; null if it is not known, or nobody can look. */
    public static function original(?string $source): ?Look
    {
        try {
            return $source === null ? null : self::look(null, $source, $source);
        } catch (UnableToRestore) {
            return null;
        }
    }

    /**
     * The original of a workload, to be read as a whole, or to put something back in it.
     *
     * @throws UnableToRestore if it is not there, or may not be entered
     */
    public static function openOriginal(string $source): Target
    {
        return Walls::stand() ? HostFolder::open(Walls::socket(null, $source), $source) : FolderBelow::open($source);
    }

    /**
     * Signs in, looks at the folder of the host, and writes, reads and removes a small file there.
     *
     * @throws UnableToRestore in words, if any of it does not work
     */
    public static function test(Host $host): void
    {
        if ($host->kind === 'sftp') {
            SftpFolder::at($host, self::key($host), $host->folder)->tryOut();
        } elseif (Walls::stand()) {
            HostFolder::open(Walls::socket($host, $host->folder), $host->folder);
        } elseif (! is_writable($host->folder)) {
            throw UnableToRestore::targetUnfit($host->folder, 'it is not there, or cannot be written to');
        }
        $host->fill(['tested_at' => now()])->save();
    }

    /** In the home, readable for nobody else. */
    public static function keepKey(Host $host, HostKey $key): void
    {
        file_put_contents(self::keyFile($host), json_encode($key, JSON_THROW_ON_ERROR));
    }

    private static function key(Host $host): HostKey
    {
        $kept = json_decode((string) @file_get_contents(self::keyFile($host)), true);

        return is_array($kept)
            ? new HostKey($kept['password'] ?? null, $kept['privateKey'] ?? null)
            : throw UnableToRestore::targetUnfit($host->name, 'nothing that signs in there is known; add the host again');
    }

    private static function keyFile(Host $host): string
    {
        return Instance::folder('keys')."/host-{$host->name}.json";
    }
}
