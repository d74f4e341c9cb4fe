<?php

declare(strict_types=1);

// Serves files of this machine as disks: served-disks.php SOCKET NAME=FILE... Blocks of 64 KiB that are all zeros are told to be so;
// one that begins with "damaged" cannot be read.

use Kaiseki\Core\Hypervisor\NbdServer;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Machine\SparseDisk;
use Kaiseki\Core\Machine\UnreadableImage;

require dirname(__DIR__, 2).'/vendor/autoload.php';

$disks = [];
foreach (array_slice($argv, 2) as $named) {
    [$name, $file] = explode('=', $named, 2);
    $disks[$name] = new class(FileDisk::open($file)) implements SparseDisk
    {
        public function __construct(private readonly FileDisk $file)
        {
        }

        public function size(): int
        {
            return $this->file->size();
        }

        public function read(int $from, int $length): string
        {
            $bytes = $this->file->read($from, $length);

            return str_contains($bytes, 'damaged') ? throw UnreadableImage::because('cannot give that back') : $bytes;
        }

        public function stretch(int $from, int $most): array
        {
            $to = min($from + $most, $this->size(), (intdiv($from, Blocks::BYTES) + 1) * Blocks::BYTES);

            return [$to - $from, Blocks::isZero($this->file->read($from, $to - $from))];
        }
    };
}
$listener = stream_socket_server("unix://$argv[1]");
(new NbdServer($disks, fn (): null => null))->run($listener, fn (): bool => true);
