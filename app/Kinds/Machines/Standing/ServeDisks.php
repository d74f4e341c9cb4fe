<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Disks\DiskImages;
use Illuminate\Console\Command;
use Kaiseki\Core\Hypervisor\NbdServer;
use Kaiseki\Core\Machine\CheckedDisk;

/** Serves the disks of one machine that stands on a point, until nobody wants them any more. Asks no database. */
final class ServeDisks extends Command
{
    /** Seconds between two looks whether they are still wanted, and what it tells of itself. */
    private const LOOKS = 1.0;

    protected $signature = 'machine:serve {name}';

    protected $description = 'Serves disks of a point to a hypervisor';

    protected $hidden = true;

    private bool $ends = false;

    private float $looked = 0.0;

    private bool $hasRefused = false;

    public function handle(): int
    {
        $served = ServedDisks::ofFile((string) $this->argument('name'));
        $own = $served->own();
        if ($own === null) {
            return 1;
        }
        [$socket, $images] = $served->read();
        $disks = array_map(fn (DiskImages $one): CheckedDisk => $one->disk(), $images);
        $state = $served->state(); // of who served them before
        $listener = self::listen($socket);
        $served->tell($state);
        $this->trap([SIGTERM, SIGINT], function (): void {
            $this->ends = true;
        });
        $told = function (string $disk, int $from, int $length, ?string $failure) use ($served, $state): void {
            $state->read($disk, $from, $length, $failure);
            $failure === null || $this->refused($served, $state);
        };
        (new NbdServer($disks, $told))->run($listener, fn (int $clients): bool => $this->goesOn($served, $state, $clients));
        @unlink($socket);
        fclose($own);

        return 0;
    }

    private function goesOn(ServedDisks $served, ServedState $state, int $clients): bool
    {
        if (microtime(true) - $this->looked > self::LOOKS) {
            [$this->looked, $state->clients] = [microtime(true), $clients];
            $this->ends = $this->ends || ! $served->isWanted();
            $this->ends || $served->tell($state);
        }

        return ! $this->ends;
    }

    /** That something could not be given is told at once, the first time. */
    private function refused(ServedDisks $served, ServedState $state): void
    {
        if (! $this->hasRefused) {
            $this->hasRefused = true;
            $served->tell($state);
        }
    }

    /** @return resource */
    private static function listen(string $socket)
    {
        @unlink("$socket.new");
        $before = umask(0); // who may come is settled by its folder
        $listener = stream_socket_server("unix://$socket.new", $code, $why);
        umask($before);
        if ($listener === false || ! rename("$socket.new", $socket)) {
            throw UnableToServe::at($socket, $why);
        }

        return $listener; // once it is there, somebody listens
    }
}
