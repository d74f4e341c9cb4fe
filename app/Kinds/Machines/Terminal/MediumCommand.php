<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Instance;
use App\Kinds\Machines\Metal\CannotMakeMedium;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\KeptMedium;
use App\Kinds\Machines\Metal\Medium;
use App\Kinds\Machines\Metal\MediumFormat;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Metal\MetalStep;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Line\LineAddress;
use App\Line\LineKey;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Trees\Run\Targets;
use InvalidArgumentException;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Makes recovery media, and codes by which machines that they are started on make themselves known. */
final class MediumCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $formats = implode(', ', array_column(MediumFormat::cases(), 'value'));
        $this->setName('medium')
            ->setDescription('Makes a recovery medium, from which a machine is brought back onto blank disks; or a code for one')
            ->addArgument('what', InputArgument::REQUIRED, 'make, code, switch, end, or key')
            ->addArgument('name', InputArgument::OPTIONAL, 'with code: the workload whose sets it is for; else the enrolment')
            ->addOption('format', null, InputOption::VALUE_REQUIRED, "of the medium: $formats", MediumFormat::Iso->value)
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'the folder that it is written to; without it medium/ in the home')
            ->addOption(
                'desk',
                null,
                InputOption::VALUE_REQUIRED,
                'where machines reach this desk, as HOST:PORT; without it where it listens',
            )
            ->addOption('for', null, InputOption::VALUE_REQUIRED, 'a request; with make, a code for its machine is on the medium')
            ->addOption('minutes', null, InputOption::VALUE_REQUIRED, 'for how long the code is good', (string) Enrolment::MINUTES);
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('what') !== 'key';
    }

    protected function carryOut(InputInterface $input): int
    {
        try {
            if ($input->getArgument('what') === 'switch') {
                return $this->switch((string) $input->getArgument('name'));
            }
            match ($input->getArgument('what')) {
                'make' => $this->make($input),
                'code' => $this->code($input),
                'end' => $this->end((string) $input->getArgument('name')),
                'key' => $this->key(),
                default => throw new InvalidArgumentException(
                    'It is "medium make", "medium code NAME", "medium switch ENROLMENT", "medium end ENROLMENT" or "medium key".',
                ),
            };
        } catch (CannotMakeMedium $cannot) {
            throw CannotBring::because($cannot->getMessage());
        }

        return self::DONE;
    }

    private function make(InputInterface $input): void
    {
        $format = MediumFormat::tryFrom((string) $input->getOption('format'))
            ?? throw new InvalidArgumentException('--format is '.implode(', ', array_column(MediumFormat::cases(), 'value')).'.');
        $to = $input->getOption('to');
        $folder = $to === null ? Instance::folder('medium') : Targets::absolute((string) $to);
        is_dir($folder) && is_writable($folder)
            || throw new InvalidArgumentException("There is no folder $folder, or the application's account may not write there.");
        $desk = (string) ($input->getOption('desk') ?? LineAddress::here());
        LineAddress::isOne($desk)
            || throw new InvalidArgumentException('Say with --desk=HOST:PORT where machines reach this desk.');
        $request = self::request($input);
        $workload = $request === null ? null : self::workloadOf($request);
        [$enrolment, $code] = $workload === null ? [null, null] : Enrolment::open($workload, $request, null, self::minutes($input));
        // One of no machine in particular is on the page of media too.
        $kept = $to === null && $code === null ? self::kept($format, $desk) : null;
        $medium = $kept === null ? Medium::here() : null;
        $files = $kept->files ?? Medium::told($folder, $medium?->make($folder, $format, $desk, $code) ?? []);
        $document = [
            'files' => array_map(fn (array $one): array => ['file' => "$folder/{$one['file']}"] + $one, $files),
            'desk' => $desk,
            'key' => LineKey::fingerprint(),
            'enrolment' => $enrolment?->id,
            'made_from' => $kept->made_from ?? $medium?->madeFrom(),
        ];
        TrailEntry::add("A recovery medium was made ({$format->value}), for a desk at $desk.", $request, null);
        $this->answer($document, fn (): array => [
            ...array_map(fn (array $file): string => "{$file['file']}  {$file['sha256']}", $document['files']),
            "It looks for this desk at $desk, and knows it by the key {$document['key']}.",
            $enrolment === null ? 'It asks for a code, which "medium code NAME" makes.' : "It has the code of enrolment {$enrolment->id}.",
        ]);
    }

    /** @throws CannotMakeMedium */
    private static function kept(MediumFormat $format, string $desk): KeptMedium
    {
        $one = KeptMedium::begin($format, $desk) ?? throw CannotMakeMedium::because('One of that format is being made already.');
        $one->make();

        return $one;
    }

    private function code(InputInterface $input): void
    {
        $request = self::request($input);
        $name = (string) $input->getArgument('name');
        $workload = match (true) {
            $name !== '' => MetalSources::machine($name),
            $request !== null => self::workloadOf($request),
            default => null,
        } ?? throw new InvalidArgumentException("There is no machine \"$name\".");
        [$one, $code] = Enrolment::open($workload, $request, null, self::minutes($input));
        $this->answer(
            ['enrolment' => $one->id, 'code' => $code, 'expires_at' => $one->expires_at->format('Y-m-d\TH:i:s\Z')],
            fn (): array => [$code, "It is good once, for {$workload->name}, until {$one->expires_at->format('H:i')} UTC."],
        );
    }

    private static function enrolment(string $number): Enrolment
    {
        $one = ctype_digit($number) ? Enrolment::query()->find((int) $number) : null;

        return $one ?? throw new InvalidArgumentException("There is no enrolment \"$number\".");
    }

    /** One that waits for newer points gets its last, and is let go. */
    private function switch(string $number): int
    {
        $run = (new MetalStep(self::enrolment($number)))->last(null);
        (new MachineCarrier($this->talk()->progress(...)))->carryOut($run);

        $run->refresh();
        $checks = $run->outcome['checks'] ?? [];
        $this->answer([
            'run' => $run->id, 'state' => $run->state, 'point' => $run->set_name, 'seconds' => $run->seconds() ?? 0.0, 'checks' => $checks,
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]), fn (): array => $run->state !== 'done'
            ? [(string) $run->failure]
            : [
                "Run {$run->id}: it is as of {$run->set_name}, and its medium let it go.",
                ...array_map(fn (CheckLine $check): string => "  {$check->told()}", CheckLine::all($checks)),
            ]);

        return $run->state === 'done' && ($run->outcome['right'] ?? false) ? self::DONE : self::NOT_ALL_RIGHT;
    }

    private function end(string $number): void
    {
        $one = self::enrolment($number);
        $one->endBy(null);
        $this->answer(['enrolment' => $one->id, 'state' => $one->state()], fn (): array => ["The enrolment {$one->id} is over."]);
    }

    /** Made where there is none, before the line that media use is opened. */
    private function key(): void
    {
        LineKey::certificate();
        $this->answer(['key' => LineKey::fingerprint()], fn (): array => [LineKey::fingerprint()]);
    }

    private static function minutes(InputInterface $input): int
    {
        $minutes = (string) $input->getOption('minutes');

        return ctype_digit($minutes) && (int) $minutes >= 1 && (int) $minutes <= 10_080
            ? (int) $minutes
            : throw new InvalidArgumentException('--minutes is a number from 1 to 10080.');
    }

    private static function request(InputInterface $input): ?RecoveryRequest
    {
        $number = $input->getOption('for');

        return $number === null ? null : RecoveryRequest::query()->find((int) $number)
            ?? throw new InvalidArgumentException("There is no request \"$number\".");
    }

    private static function workloadOf(RecoveryRequest $request): Workload
    {
        return $request->workload !== null && MetalSources::isMachine($request->workload)
            ? $request->workload
            : throw new InvalidArgumentException("Request {$request->id} is about no machine.");
    }
}
