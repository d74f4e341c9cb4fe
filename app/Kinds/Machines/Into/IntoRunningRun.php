<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Run\MachineProof;
use App\Kinds\Machines\Run\NewMachine;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\SetAsides;
use App\Words;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Proof\CheckLine;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\VolumeMark;

/**
 * Brings files into a machine that runs, by its agent: as an archive into a folder beside where they go, unpacked and compared there by
 * the machine's own tools, and only then moved to their places, one thing that was picked after the other. One that was cut off begins
 * anew, but for what it has moved.
 */
final class IntoRunningRun extends FilesIntoMachine
{
    protected const STEPS = [
        'lock the machine', 'attach the media', 'ask its agent', 'pack the files', 'send them', 'unpack and compare them there',
        'move them to their places',
    ];

    /** What the archive, what comes out of it and the lists take beside each other, as a multiple of the content. */
    private const ROOM = 2.2;

    private Inside $inside;

    protected function whatWasDone(): string
    {
        return ($this->run->refresh()->outcome['moved'] ?? []) === []
            ? ' Nothing in it was changed.'
            : ' Some of it is in its place: go on with the run, or put it back.';
    }

    /** A folder of the run's own, in the machine, on the file system that they go to. */
    public static function stage(Run $run, IntoOrder $order): string
    {
        return rtrim(self::folder($run, $order), '/')."/.kaiseki-run-{$run->id}";
    }

    /** As the machine sees it itself: the one that was said, or that in which they lie there now. */
    public static function folder(Run $run, IntoOrder $order): string
    {
        return $order->folder !== '' ? "/{$order->folder}" : (string) (($run->outcome ?? [])['folder'] ?? '/');
    }

    private function there(): string
    {
        return self::folder($this->run, $this->order);
    }

    /** Where the machine has mounted the file system that they lay on, and there the folder that they lay in. */
    private function settleFolder(): void
    {
        if ($this->order->folder !== '' || isset(($this->run->refresh()->outcome ?? [])['folder'])) {
            return;
        }
        [$volume] = $this->tree->find($this->order->paths[0]);
        $mark = VolumeMark::of($volume->partition->read(0, VolumeMark::BYTES));
        $at = $mark === null ? null : $this->inside->mounted($mark);
        $at ?? throw CannotBring::because("The machine has not mounted the file system of {$volume->name}: say in which folder they go.");
        $this->remember(folder: rtrim($at, '/').'/'.substr((string) $this->order->inOneFolder(), strlen("{$volume->name}/")));
    }

    protected function carry(RunLedger $ledger): void
    {
        $this->inside = new Inside($this->hypervisor, $this->order->machine);
        $free = 0;
        $host = $stage = '';
        $ledger->step(2, function () use (&$stage, &$free, &$host): string {
            $host = $this->hypervisor->agent($this->order->machine)->host;
            $this->settleFolder();
            $stage = self::stage($this->run, $this->order);
            $free = $this->inside->free($this->there());
            $this->inside->prepare($stage);

            return "it calls itself $host; ".Words::size($free)." free in {$this->there()}";
        });
        $sent = new FilesSent($this->tree, $this->order->paths);
        $ledger->step(3, fn (): string => $this->pack($sent, $free));
        $ledger->step(4, fn (): string => $this->send($sent, $stage));
        $ledger->step(5, fn (): string => $this->compare($sent, $stage));
        $ledger->step(6, fn (): string => $this->moveAll($sent, $stage));
        $this->inside->remove($stage);
        $this->finish($ledger, $sent, $host);
    }

    private function pack(FilesSent $sent, int $free): string
    {
        $archive = "{$this->work}/archive";
        $out = @fopen($archive, 'xb') ?: throw UnableToWrite::open($archive, 'An archive on its way');
        $sent->writeTo($out);
        fclose($out);
        $needed = (int) (self::ROOM * $sent->bytes) + (1 << 20);
        $needed <= $free || throw CannotBring::because(
            'There are '.Words::size($free).' free in '.$this->there().' of the machine; '.Words::size($needed).' are needed.',
        );

        return Words::count($sent->files, 'file').', '.Words::size($sent->bytes);
    }

    private function send(FilesSent $sent, string $stage): string
    {
        $archive = fopen("{$this->work}/archive", 'rb');
        assert($archive !== false);
        $bytes = (int) filesize("{$this->work}/archive");
        $how = $this->sendArchive($archive, $bytes, $sent, "$stage/archive");
        fclose($archive);
        $this->inside->write("$stage/digests", $sent->digests());
        $this->inside->write("$stage/facts", $sent->stats());
        $this->inside->write("$stage/times", $sent->folderTimes());

        return Words::size($bytes).", $how";
    }

    /**
     * @param  resource  $archive
     * @return string how
     */
    private function sendArchive($archive, int $bytes, FilesSent $sent, string $to): string
    {
        $why = '';
        $tell = fn (int $done) => $this->progress->advanced(0, $done);
        if ($bytes >= (int) config('machines.plugs_from')) {
            $lender = NewMachine::nameOfMade($this->run, $this->order->machine);
            try {
                (new PluggedArchive($this->hypervisor, $this->order->machine, $lender, $this->run->id))
                    ->bring($archive, $bytes, $this->inside, $to, $tell);

                return 'on a disk that was plugged in for that';
            } catch (HypervisorFailure $failure) {
                $why = ", since {$failure->getMessage()}";
                rewind($archive);
            }
        }
        $sent->bytes <= FilesSent::MOST_BY_AGENT || throw CannotBring::because(
            'Its agent takes '.Words::size(FilesSent::MOST_BY_AGENT)." at most, and this is more$why: shut the machine down for it.",
        );
        $this->inside->send($archive, $to, $tell);

        return "by its agent$why";
    }

    private function compare(FilesSent $sent, string $stage): string
    {
        $this->inside->unpack($stage);
        $this->inside->hasDigests("$stage/tree", '../digests') || throw CannotBring::because('Not all came as it is: a digest is another.');
        $other = $this->inside->otherFacts("$stage/tree", '../facts', $sent->tops());
        $other === null || throw CannotBring::because("Not all came as it is: a mode, an owner or a time is another: $other.");

        return 'every file by digest, mode, owner and time';
    }

    private function moveAll(FilesSent $sent, string $stage): string
    {
        $moved = $this->moved();
        foreach ($sent->tops() as $name) {
            if (isset($moved[$name])) {
                continue;
            }
            $place = $this->place($name, $sent);
            if ($place !== null) {
                $moved[$name] = $place;
                $this->remember(moved: $moved); // known before it is so: what is not there after all is no harm
                $place['aside'] === null || $this->inside->move($place['at'], $place['aside']);
                $this->inside->move("$stage/tree/$name", $place['at']);
            }
        }
        $this->remember(placed: true);

        return implode(', ', array_column($moved, 'at')) ?: 'nothing: all is there';
    }

    /** @return array<string, array{at: string, aside: string|null}> what was picked => where it is, and where what stood there is */
    private function moved(): array
    {
        $moved = [];
        foreach (($this->run->refresh()->outcome ?? [])['moved'] ?? [] as $name => $place) {
            $isThere = $this->inside->stands($place['at']);
            $isAside = $place['aside'] !== null && $this->inside->stands($place['aside']);
            if ($isThere && ($place['aside'] === null || $isAside)) {
                $moved[(string) $name] = $place;
            } elseif ($isAside) {
                $this->inside->move($place['aside'], $place['at']); // what stood there had gone, and nothing had come
            }
        }

        return $moved;
    }

    /** @return array{at: string, aside: string|null}|null null if it is left out */
    private function place(string $name, FilesSent $sent): ?array
    {
        $at = rtrim($this->there(), '/')."/$name";
        if (! $this->inside->stands($at)) {
            return ['at' => $at, 'aside' => null];
        }
        if ($this->order->conflict === ConflictRule::MissingOnly) {
            $sent->leftOut[] = new LeftOut($at, 'it is there', false);

            return null;
        }
        $dated = $this->dated($name);

        return $this->order->conflict === ConflictRule::Beside ? ['at' => $dated, 'aside' => null] : ['at' => $at, 'aside' => $dated];
    }

    private function dated(string $name): string
    {
        for ($n = 1; ; $n++) {
            $marked = RestoreOrder::marked($name, $n === 1 ? $this->order->date : "{$this->order->date} $n");
            $place = rtrim($this->there(), '/')."/$marked";
            if (! $this->inside->stands($place)) {
                return $place;
            }
        }
    }

    private function finish(RunLedger $ledger, FilesSent $sent, string $host): void
    {
        $checks = [CheckLine::of(
            'every file by digest, mode, owner and time, by the machine\'s own tools',
            true,
            Words::count($sent->files, 'file').", in the machine that calls itself $host",
        )];
        $outcome = [
            'kind' => 'machine', 'way' => IntoOrder::WAY, 'on' => $this->order->on, 'machine' => $this->order->machine,
            'landed_in' => $host, 'disks' => [], 'files' => $sent->files, 'bytes' => $sent->bytes, 'content' => $sent->bytes,
            'left_out' => LeftOut::kept($sent->leftOut), 'missing' => 0, 'checks' => CheckLine::kept($checks), 'right' => true,
        ] + ($this->run->refresh()->outcome ?? []);
        $this->run->update([
            'state' => 'done', 'outcome' => $outcome, 'ended_at' => now(), 'files_done' => $sent->files,
            'set_aside_until' => now()->addDays(SetAsides::DAYS),
        ]);
        (new MachineProof($this->run->refresh(), $this->order->sentence))->write('files in a machine', [
            'hypervisor' => $this->order->on, 'machine' => $this->order->machine, 'calls_itself' => $host,
            'places' => array_column($outcome['moved'] ?? [], 'at'), 'files' => $sent->files, 'left_out' => LeftOut::kept($sent->leftOut),
        ], $outcome);
        $files = Words::count($sent->files, 'file');
        $ledger->tell("Run {$this->run->id} ended: $files in {$this->order->machine}, which calls itself $host, all right.", 'answer');
    }
}
