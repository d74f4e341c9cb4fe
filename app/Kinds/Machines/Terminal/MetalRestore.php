<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Metal\MetalPlan;
use App\Kinds\Machines\Metal\OrderedRun;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Run;
use App\Models\Workload;
use App\Runs\WaitAtTerminal;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\UnfitLayout;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `restore` for a machine that comes onto the disks of another, on which a recovery medium was started. */
final readonly class MetalRestore
{
    public function __construct(private Workload $workload, private InputInterface $input, private Talk $talk)
    {
    }

    public static function describe(Command $command): void
    {
        $command->addOption('to-metal', null, InputOption::VALUE_REQUIRED, 'the machine that enrolled itself from a medium; see enrolled');
        self::describeLayout($command);
        $command->getDefinition()->hasOption('follow') || $command->addOption('follow', null, InputOption::VALUE_REQUIRED,
            'minutes between two looks for a newer point, with which it is kept in step until "medium switch"');
        $command
            ->addOption(
                'erase',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'with --to-metal: the serial number of a disk that is written over, for each of them; NAME:BYTES where it has none',
            )
            ->addOption('rehearse', null, InputOption::VALUE_NONE, 'with --to-metal: do all of it but writing')
            ->addOption('restart', null, InputOption::VALUE_NONE, 'with --to-metal: restart the machine at the end; else it goes off')
            ->addOption('new-machine-id', null, InputOption::VALUE_NONE,
                'with --to-metal: it makes a machine id of its own when it starts, where the one that it was is used further')
            ->addOption('address', null, InputOption::VALUE_REQUIRED, 'with --restart: where it is asked who it is then, HOST[:PORT]')
            ->addOption('asked', null, InputOption::VALUE_REQUIRED, 'the page that is asked for once it is started', '/')
            ->addOption(
                'answers',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'a file of it, as browse lists it, whose content must be in the answer',
            );
    }

    public static function describeSheet(Command $command): void
    {
        MachineRestore::describePoint($command);
        $command->addOption('to-metal', null, InputOption::VALUE_REQUIRED, 'for the disks of a machine that enrolled itself');
        self::describeLayout($command);
    }

    /**
     * What the machine is made of, and then what puts it onto those disks.
     *
     * @return array{string, list<string>} the point, and the sheet
     */
    public static function handSheet(Workload $workload, InputInterface $input): array
    {
        $rule = KaisekiCommand::copyRule($input);
        [$points, $point] = MachineRestore::point($workload, $input, $rule);
        $enrolment = self::enrolment((string) $input->getOption('to-metal'));
        $plan = MetalPlan::settle($points, $point, $enrolment, self::wish($input), false, false, $rule);
        if ($plan->layout->misfits !== []) {
            throw CannotBring::because(implode(' ', $plan->layout->misfits));
        }

        return [$point->name, [implode("\n", [...$plan->source->handSheet($plan->layout)])."\n"]];
    }

    public static function describeLayout(Command $command): void
    {
        $what = 'a layout as "layout propose --json" wrote it, edited; what else is said here goes before it';
        $command->addOption('layout', null, InputOption::VALUE_REQUIRED, $what);
        foreach ([
            'onto' => 'onto which disk of the machine a disk comes, as DISK=sda',
            'without' => 'a disk that is not brought',
            'size' => 'bytes of a partition, as DISK.NUMBER=BYTES, or of a volume of LVM, as GROUP-VOLUME=BYTES',
        ] as $option => $what) {
            $command->addOption($option, null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, "with a machine's layout: $what");
        }
    }

    public static function wish(InputInterface $input): LayoutWish
    {
        $onto = $sizes = [];
        foreach ((array) $input->getOption('onto') as $said) {
            [$disk, $to] = [...explode('=', (string) $said, 2), ''];
            $to !== '' || throw new InvalidArgumentException('--onto is DISK=sda: a disk of the set, and one of the machine.');
            $onto[$disk] = $to;
        }
        foreach ((array) $input->getOption('size') as $said) {
            [$partition, $bytes] = [...explode('=', (string) $said, 2), ''];
            ctype_digit($bytes) && strlen($bytes) < 19 && preg_match('/[.-]/', $partition) === 1
                || throw new InvalidArgumentException('--size is DISK.NUMBER=BYTES, or GROUP-VOLUME=BYTES.');
            $sizes[$partition] = (int) $bytes;
        }

        $written = self::written($input->getOption('layout'));
        $without = array_values(array_map(strval(...), (array) $input->getOption('without')));

        return new LayoutWish(
            $onto + array_diff_key($written->onto, array_flip($without)),
            array_values(array_unique([...$without, ...array_diff($written->without, array_keys($onto))])),
            $sizes + $written->sizes,
        );
    }

    private static function written(?string $file): LayoutWish
    {
        $json = $file === null ? null : @file_get_contents($file, false, null, 0, 8 << 20);
        try {
            return match ($json) {
                null => new LayoutWish,
                false => throw new InvalidArgumentException("\"$file\" cannot be read."),
                default => LayoutWish::ofJson($json),
            };
        } catch (UnfitLayout $unfit) {
            throw new InvalidArgumentException("\"$file\" is no layout: {$unfit->getMessage()}");
        }
    }

    /** @throws InvalidArgumentException|\App\Kinds\Machines\Order\CannotBring */
    public function carryOut(): Told
    {
        $plan = $this->plan();
        $isDry = (bool) $this->input->getOption('dry-run');
        $blockers = [...$plan->blockers(), ...$this->input->getOption('rehearse') || $isDry ? [] : $this->unconfirmed($plan)];
        if ($isDry || $blockers !== []) {
            return self::toldPlan($plan, $blockers, $isDry);
        }
        $run = OrderedRun::begin(
            $this->workload,
            $plan->point,
            $this->withAddress($plan->ordered((bool) $this->input->getOption('new-machine-id')))->toArray(),
            $plan->layout->leftAlone === [],
        );
        $carrier = new MachineCarrier($this->talk->progress(...));
        $carrier->carryOut($run);
        if ($run->refresh()->state === 'waiting' && ! $this->input->getOption('no-wait')) {
            WaitAtTerminal::until($run, $carrier, $this->talk);
        }

        return $this->told($run);
    }

    private function plan(): MetalPlan
    {
        $rule = KaisekiCommand::copyRule($this->input);
        [$points, $point] = MachineRestore::point($this->workload, $this->input, $rule);

        return MetalPlan::settle(
            $points,
            $point,
            self::enrolment((string) $this->input->getOption('to-metal')),
            self::wish($this->input),
            (bool) $this->input->getOption('rehearse'),
            (bool) $this->input->getOption('restart'),
            $rule,
            $this->input->getOption('rehearse') ? null : PlacementRestore::number($this->input, 'follow'),
        );
    }

    /** The page that is asked for once it is started. */
    public static function asked(InputInterface $input): string
    {
        $asked = (string) $input->getOption('asked');

        return preg_match('~^/[\x21-\x7e]{0,200}$~D', $asked) === 1
            ? $asked
            : throw new InvalidArgumentException('--asked is the path of a page.');
    }

    /** With where it is asked who it is, once it was restarted. */
    private function withAddress(MetalOrder $order): MetalOrder
    {
        $address = (string) $this->input->getOption('address');
        if ($address === '' || ! $order->restarts || $order->rehearses) {
            return $order;
        }
        $asked = self::asked($this->input);
        preg_match('/^[A-Za-z0-9.-]{1,200}(:[0-9]{1,5})?$/D', $address) === 1
            || throw new InvalidArgumentException('--address is HOST or HOST:PORT.');
        $files = array_values(array_map(strval(...), (array) $this->input->getOption('answers')));

        return $order->with(
            address: $address,
            answer: $files === [] ? Answer::of($this->workload) ?? new Answer($asked, []) : new Answer($asked, $files),
        );
    }

    public static function enrolment(string $number): Enrolment
    {
        $one = ctype_digit($number) ? Enrolment::query()->find((int) $number) : null;

        return $one?->machine === null
            ? throw new InvalidArgumentException("No machine has the enrolment \"$number\"; \"enrolled\" lists those that have one.")
            : $one;
    }

    /** @return list<string> disks that would be written over, and were not named */
    private function unconfirmed(MetalPlan $plan): array
    {
        $said = array_map(strval(...), (array) $this->input->getOption('erase'));
        $blockers = [];
        foreach ($plan->confirmations() as $disk => $asked) {
            $marks = $plan->order->machine->disk((string) $disk)->marks ?? [];
            if (! in_array($asked, $said, true)) {
                $blockers[] = "$disk would be written over".($marks === [] ? '' : ' (on it now: '.implode(', ', $marks).')').
                    ": confirm it with --erase=$asked.";
            }
        }

        return $blockers;
    }

    /** @param  list<string>  $blockers */
    private static function toldPlan(MetalPlan $plan, array $blockers, bool $isDry): Told
    {
        $sentence = $plan->sentence('UTC');
        $document = [
            'run' => null,
            'point' => $plan->point->name,
            'order' => $sentence,
            ...['cautions' => $plan->cautions()] + LayoutCommand::document($plan->layout),
            'blockers' => $blockers,
        ] + ($isDry ? [] : ['error' => implode(' ', $blockers)]);
        $lines = fn (): array => [$sentence, ...LayoutCommand::lines($plan->layout),
            ...array_diff($plan->cautions(), $plan->layout->cautions), ...$blockers, 'Nothing was done.'];

        return new Told($blockers === [] ? KaisekiCommand::DONE : KaisekiCommand::BLOCKED, $document, $lines);
    }

    private function told(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        $run->state === 'done' || $this->talk->say((string) $run->failure);
        $document = [
            'run' => $run->id,
            'point' => $run->set_name,
            'state' => $run->state,
            'bytes' => $outcome['bytes'] ?? 0,
            'seconds' => $run->seconds() ?? 0.0,
            'disks' => $outcome['disks'] ?? [],
            'checks' => $outcome['checks'] ?? [],
            'cautions' => $outcome['cautions'] ?? [],
            'next' => $outcome['next'] ?? [],
            'left_out' => $outcome['left_out'] ?? 0,
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $isRight = $run->state === 'done' && ($outcome['right'] ?? false);

        return new Told(
            $isRight ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT,
            $document,
            fn (): array => $run->state !== 'done' ? [] : [
                "Run {$run->id}: {$run->workload->name} as of {$run->set_name}, in ".Words::duration($run->seconds() ?? 0.0).'.',
                ...array_map(
                    fn (CheckLine $check): string => "  {$check->told()}",
                    CheckLine::all($outcome['checks'] ?? []),
                ),
                ...array_map(fn (string $line): string => "  $line", [...$outcome['cautions'] ?? [], ...$outcome['next'] ?? []]),
                ...isset($run->plan['follow']) ? ["  it waits: medium switch {$run->plan['enrolment']} takes the last step"] : [],
            ],
        );
    }
}
