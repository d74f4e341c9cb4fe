<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Blank;

use App\Kinds\Machines\Metal\CannotMakeMedium;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\Medium;
use App\Kinds\Machines\Metal\MediumFormat;
use App\Kinds\Machines\Metal\MediumWork;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Metal\MetalProof;
use App\Kinds\Machines\Metal\MetalSource;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\BootProof;
use App\Kinds\Machines\Run\CarriedRun;
use App\Kinds\Machines\Run\KeepsOutcome;
use App\Kinds\Machines\Run\MachineLock;
use App\Kinds\Machines\Run\WayAtHypervisor;
use App\Models\Run;
use App\Runs\RunFiles;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\Shelf;
use App\Sets\Points;
use App\Words;
use Closure;
use Illuminate\Support\Facades\File;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\RenewedTree;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Packets\CaptureReading;
use Kaiseki\Core\Packets\UnreadableCapture;
use Kaiseki\Core\Packets\Wanted;
use Kaiseki\Core\Proof\CheckLine;

/**
 * Brings a machine onto a blank one at a hypervisor, with nobody at it: makes that, starts a medium in it that has a code of its own, has
 * that bring all of it as it would onto metal, takes it out, and starts what was brought. A drill removes it again. One that was killed
 * begins anew.
 */
final class BlankRun
{
    use KeepsOutcome;

    private const LOCK = 'lock the machine';

    private const ATTACH = 'attach the media';

    private const MEDIUM = 'make a medium with a code of its own';

    private const MAKE = 'make a blank machine';

    private const START = 'start the medium there';

    private const GIVE = 'give the orders';

    private const BRING = 'bring the contents';

    private const READ = 'read back';

    private const OUT = 'take the medium out';

    private const REST = 'have it wait';

    private const ASK = 'start it, and ask who it is';

    private const REMOVE = 'remove it again';

    /** Seconds for which a medium is waited for, and one that is told to go off. */
    private const PATIENCE = 300;

    private const GOES_OFF = 60;

    private Run $run;

    private BlankOrder $order;

    private RunLedger $ledger;

    private RunProgress $progress;

    private Hypervisor $hypervisor;

    private BlankMachine $machine;

    private Enrolment $enrolment;

    private MetalOrder $ordered;

    private ?MediumWork $work = null;

    /** What became of the machine, once it was removed again. */
    private string $cleared = '';

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    /** @return list<string> */
    private static function steps(BlankOrder $order): array
    {
        return [
            self::LOCK, self::ATTACH,
            ...$order->enrolment === null ? [self::MEDIUM, self::MAKE, self::START] : [],
            self::GIVE, self::BRING, self::READ,
            $order->follow === null ? self::OUT : self::REST,
            ...$order->isStarted() ? [self::ASK] : [],
            ...$order->isDrill ? [self::REMOVE] : [],
        ];
    }

    /** @param  Closure(): string  $work */
    private function step(string $name, Closure $work): void
    {
        $this->ledger->step((int) array_search($name, self::steps($this->order), true), $work);
    }

    /** What its network apart is called at the hypervisor. */
    public static function annexOf(Run $run): string
    {
        return "drill-run-{$run->id}";
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->order = BlankOrder::fromArray($run->plan);
        $this->ledger = new RunLedger($run);
        $also = $this->also;
        $tell = fn (int $files, int $bytes) => $also === null ? null : $also(number_format($files).' files, '.Words::size($bytes));
        $this->progress = new RunProgress($run, $tell(...));
        CarriedRun::carry($this->ledger, self::steps($this->order), function (): void {
            RunRefusal::check($this->run);
            $this->hypervisor = $this->order->host()->open();
            $maker = $this->order->maker === null ? $this->run : Run::query()->findOrFail($this->order->maker);
            $this->machine = new BlankMachine($this->hypervisor, $maker, $this->order);
            // A drill is in nobody's way: what is locked is its own machine.
            $locked = $this->order->isDrill ? $this->machine->name : $this->order->settings->name;
            $this->step(self::LOCK, fn (): string => MachineLock::take($locked, $this->order->on));
            $points = new Points($this->run->workload);
            try {
                $this->work($points);
            } finally {
                $points->stores->release();
                MachineLock::free($locked, $this->order->on);
                $this->order->host()->lookIfItAnswers();
            }
        }, fn (): string => match (true) {
            $this->recalled('placed') === true => " {$this->order->settings->name} is at {$this->order->on}: put the run back, or use it.",
            $this->cleared !== '' => ' At the hypervisor, '.$this->cleared.'.',
            default => '',
        });
    }

    private function work(Points $points): void
    {
        $this->recalled('placed') !== true || throw CannotBring::because(
            'All of it was brought when this run was cut off, and nobody has asked it who it is',
        );
        $source = MetalSources::of($points, $points->sets[$this->run->set_id], $this->order->copies);
        $disks = array_map(fn (RecordedDisk $disk): string => $disk->name, $this->order->layout->disks);
        $source->only(array_values(array_diff($disks, $this->order->wish->without)));
        $this->step(self::ATTACH, fn (): string => Shelf::attach(
            $this->run,
            $source->reading()->estimate()->toFetch,
            $source->reading()->media(),
        ));
        $wanted = $source->answers($this->order->answer);
        $isId = fn (string $file): bool => str_ends_with($file, '/'.RenewedTree::ID);
        $wanted = $this->order->renewsId ? array_filter($wanted, fn (string $file): bool => ! $isId($file), ARRAY_FILTER_USE_KEY) : $wanted;
        $isDone = false;
        try {
            $checks = [...$this->bring($source), ...$this->lookAtIt($wanted)];
            $isDone = true;
        } finally {
            $this->leave($isDone);
        }
        $this->order->isDrill && $this->step(self::REMOVE, fn (): string => $this->clear());
        $this->finish($checks, $source);
    }

    /** One that waited is left as it is, as long as nothing was written to it. */
    private function leave(bool $isDone): void
    {
        $isTouched = $this->order->enrolment === null || $this->work?->hasBegun() === true;
        $waits = $isDone && $this->order->follow !== null;
        if (! $isTouched || $waits) {
            return;
        }
        $this->work?->end();
        if (! $isDone) {
            $this->cleared = $this->clear();
        }
    }

    /** @return list<CheckLine> */
    private function bring(MetalSource $source): array
    {
        $this->order->enrolment === null ? $this->make() : $this->wake($this->order->enrolment);
        $work = $this->work = new MediumWork($this->run, $this->enrolment, $this->ordered, $source, $this->progress);
        $this->step(self::GIVE, fn (): string => $work->give());
        $this->step(self::BRING, fn (): string => $work->bring());
        $checks = [];
        $this->step(self::READ, function () use ($work, &$checks): string {
            $checks = $work->readBack();

            return Words::count(count($checks), 'thing').' compared';
        });
        $this->order->follow === null
            ? $this->step(self::OUT, fn (): string => $this->takeOut())
            : $this->step(self::REST, fn (): string => $this->rest($work));

        return $checks;
    }

    private function make(): void
    {
        $image = '';
        $this->step(self::MEDIUM, function () use (&$image): string {
            $image = $this->medium();

            return 'enrolment '.$this->enrolment->id.', for this machine alone';
        });
        $this->step(self::MAKE, function () use ($image): string {
            $made = $this->machine->make($image, (string) $this->order->host()->line_network);
            File::deleteDirectory(dirname($image));

            return $made;
        });
        $this->step(self::START, fn (): string => $this->enrol());
    }

    /** One that waits for newer points gets its last. */
    private function wake(int $enrolment): void
    {
        $this->enrolment = Enrolment::query()->findOrFail($enrolment);
        $this->enrolment->ended_at === null || throw CannotBring::because("The enrolment $enrolment {$this->enrolment->state()}.");
        $this->enrolment->update(['run_id' => $this->run->id]);
        $this->ordered = $this->order->onto($enrolment, $this->enrolment->targetMachine())->with(number: $this->enrolment->orders + 1);
    }

    private function rest(MediumWork $work): string
    {
        $work->rest();
        $this->remember(waits: true);

        return "{$this->machine->name} waits: every {$this->order->follow} min it is looked for a newer point";
    }

    /** @return string the image of a stick with a code for this run */
    private function medium(): string
    {
        Enrolment::query()->where('run_id', $this->run->id)->whereNull('ended_at')->get()
            ->each(fn (Enrolment $before) => $before->end('its run begins anew'));
        [$one, $code] = Enrolment::open($this->run->workload, $this->run->request, $this->run->user);
        $one->update(['run_id' => $this->run->id, 'maker_id' => $this->run->id]);
        $this->enrolment = $one;
        $folder = RunFiles::folder($this->run).'/medium';
        File::ensureDirectoryExists($folder, 0700);
        $line = $this->order->host()->line
            ?? throw CannotBring::because("From where machines at {$this->order->on} reach this desk is not known.");
        try {
            return "$folder/".Medium::here()->make($folder, MediumFormat::Stick, $line, $code)[0];
        } catch (CannotMakeMedium $cannot) {
            throw CannotBring::because($cannot->getMessage());
        }
    }

    private function enrol(): string
    {
        $this->machine->start();
        for ($began = microtime(true); $this->enrolment->refresh()->token === null; usleep(300_000)) {
            $trouble = $this->machine->trouble();
            $trouble === null || throw CannotBring::because("The medium did not come to its desk: $trouble");
            microtime(true) - $began < self::PATIENCE || throw CannotBring::because(
                'Nobody asked for orders in '.Words::duration(self::PATIENCE).": see whether machines at {$this->order->on} reach ".
                "this desk at {$this->order->host()->line}",
            );
            $this->breathe();
        }
        $machine = $this->enrolment->targetMachine();
        $this->isAsMade($machine)
            || throw CannotBring::because('What made itself known has other disks than the machine that was made for it.');
        $this->ordered = $this->order->onto($this->enrolment->id, $machine);
        $misfits = $this->ordered->plan()->misfits;
        $misfits === [] || throw CannotBring::because(implode(' ', $misfits));

        return 'it made itself known after '.Words::duration(microtime(true) - $began);
    }

    /** Whether it has the blank disks that were made, and none else but its medium. */
    private function isAsMade(TargetMachine $machine): bool
    {
        $blank = array_filter($machine->open(), fn (TargetDisk $disk): bool => $disk->marks === []);
        $sizes = array_map(fn (TargetDisk $disk): int => $disk->bytes, $machine->open());

        return count($blank) === count($sizes) && $sizes === array_map(fn ($disk): int => $disk->size, $this->order->settings->disks);
    }

    private function breathe(): void
    {
        $this->run->refresh()->stop_asked && throw UnableToRestore::stopped();
        $this->run->update(['heartbeat_at' => now()]);
    }

    private function takeOut(): string
    {
        $this->enrolment->refresh()->end('its run is over');
        for ($until = microtime(true) + self::GOES_OFF; $this->machine->isRunning() && microtime(true) < $until; usleep(200_000)) {
            $this->breathe();
        }
        $annex = $this->order->isDrill ? self::annexOf($this->run) : null;
        $annex === null || in_array($annex, $this->hypervisor->room()->annexes, true) || $this->hypervisor->openAnnex($annex);
        $settings = $this->machine->takeOut($annex, WayAtHypervisor::markOf($this->run));
        $this->order->isDrill || $this->machine->giveName();
        $this->remember(placed: ! $this->order->isDrill, settings: $settings->toArray());
        $this->order->maker === null || Run::query()->whereKey($this->order->maker)->update(['outcome->switched_by' => $this->run->id]);

        return $annex === null ? "it is {$this->order->settings->name} now" : 'it is in a network apart now';
    }

    /**
     * @param  array<string, string>  $wanted
     * @return list<CheckLine>
     */
    private function lookAtIt(array $wanted): array
    {
        if (! $this->order->isStarted()) {
            return [];
        }
        $name = $this->order->isDrill ? $this->machine->name : $this->order->settings->name;
        $proof = new BootProof($this->hypervisor, $name, $this->order->answer, $wanted, $this->progress);
        $this->step(self::ASK, fn (): string => $proof->run());
        $this->remember(boot: $proof->watch->account(), wanted: $this->wanted());

        return [$proof->check()];
    }

    /** @return list<string>|null what it would have sent out of its network apart; null if it was in none, or nobody can tell */
    private function wanted(): ?array
    {
        $record = fopen('php://temp', 'w+b');
        if (! $this->order->isDrill || $record === false) {
            return null;
        }
        fwrite($record, $this->hypervisor->annexRecord(self::annexOf($this->run), 0)->bytes);
        rewind($record);
        try {
            $wanted = Wanted::inAll((new CaptureReading($record))->packets());
        } catch (UnreadableCapture) {
            return null;
        }

        return array_map(fn (Wanted $one): string => $one->words().', '.Words::count($one->packets, 'packet'), $wanted);
    }

    /** Nothing of it is left at the hypervisor, if that answers; else who clears up after runs does it. */
    private function clear(): string
    {
        try {
            $this->machine->remove();
            $annex = self::annexOf($this->run);
            in_array($annex, $this->hypervisor->room()->annexes, true) && $this->hypervisor->closeAnnex($annex);
        } catch (HypervisorFailure $failure) {
            return "{$this->machine->name} is still there, and can be removed: {$failure->getMessage()}";
        }

        return 'nothing of it is left there';
    }

    /** @param  list<CheckLine>  $checks */
    private function finish(array $checks, MetalSource $source): void
    {
        $isRight = CheckLine::wrong($checks) === [];
        $this->run->update(['state' => 'done', 'ended_at' => now(), 'outcome' => ($this->work?->outcome() ?? []) + [
            'kind' => 'machine',
            'way' => BlankOrder::WAY,
            'on' => $this->order->on,
            'machine' => $this->order->settings->name,
            'checks' => CheckLine::kept($checks),
            'cautions' => [...$this->ordered->plan()->cautions, ...$source->cautions()],
            'next' => $this->order->isDrill || $this->order->follow !== null ? [] : $source->next(),
            'right' => $isRight,
        ] + ($this->run->refresh()->outcome ?? [])]);
        MetalProof::write($this->run, $this->ordered, $this->order->on);
        $this->ledger->tell(sprintf(
            'Run %d ended: %s, %s.',
            $this->run->id,
            $this->order->isDrill ? 'a drill' : "{$this->order->settings->name} at {$this->order->on}",
            $isRight ? 'all right' : 'not all right',
        ), $this->order->isDrill || $this->order->follow !== null ? 'open' : 'answer');
    }
}
