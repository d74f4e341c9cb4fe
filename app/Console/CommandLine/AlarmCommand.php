<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Alarms\AlarmSender;
use App\Models\Alarm;
use App\Models\AlarmReceiver;
use App\Models\AlarmSort;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Throwable;

final class AlarmCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('alarm')
            ->setDescription('Lists alarms, and settles to whom they are sent')
            ->addArgument('what', InputArgument::REQUIRED, 'list, receivers, to, drop, or try')
            ->addArgument('name', InputArgument::OPTIONAL, 'of a receiver')
            ->addOption(
                'mail',
                null,
                InputOption::VALUE_REQUIRED,
                'an address to which they are mailed (by KAISEKI_MAIL, when the desk is started)',
            )
            ->addOption(
                'webhook',
                null,
                InputOption::VALUE_REQUIRED,
                'an https address to which they are posted, signed (Standard Webhooks)',
            )
            ->addOption('about', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'only these sorts; all without it')
            ->addOption('group', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'only of workloads of these groups')
            ->addOption('repeat', null, InputOption::VALUE_REQUIRED, 'minutes after which one is sent again until it is taken', '60');
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = $input->getArgument('name');
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'receivers' => $this->receivers(),
            'to' => $this->settle($input, (string) $name),
            'drop' => $this->drop(self::known($name)),
            'try' => $this->tryOut(self::known($name)),
            default => throw new InvalidArgumentException('It is "alarm list", "receivers", "to", "drop" or "try".'),
        };

        return self::DONE;
    }

    private function list(): void
    {
        $open = Alarm::query()->with('taker')->whereNotNull('open')->orderBy('id')->get();
        $this->answer(
            [
                'alarms' => array_values(
                    $open
                        ->map(
                            fn (Alarm $alarm): array => [
                                'alarm' => $alarm->id,
                                'about' => $alarm->sort->value,
                                'what' => $alarm->words,
                                'since' => $alarm->raised_at->toIso8601ZuluString(),
                                'taken_by' => $alarm->taker?->email,
                            ],
                        )
                        ->all(),
                ),
            ],
            fn (): array => $open->isEmpty()
                ? ['There is none.']
                : array_values(
                    $open
                        ->map(
                            fn (Alarm $one): string => "{$one->raised_at->toIso8601ZuluString()}  {$one->words}".
                                ($one->taker === null ? '' : "  ({$one->taker->name} sees to it)"),
                        )
                        ->all(),
                ),
        );
    }

    private function receivers(): void
    {
        $all = AlarmReceiver::query()->orderBy('name')->get();
        $this->answer(
            ['receivers' => array_values($all->map(self::document(...))->all())],
            fn (): array => $all->isEmpty()
                ? ['Nobody is sent them: kaiseki alarm to NAME --mail=ADDRESS']
                : array_values($all->map(fn (AlarmReceiver $one): string => "{$one->name}  {$one->kind} {$one->address}")->all()),
        );
    }

    private function settle(InputInterface $input, string $name): void
    {
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,59}$/D', $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a receiver has letters, digits, dots, dashes and underscores, and at most 60 of them.',
            );
        }
        [$kind, $address] = self::address($input);
        $repeat = (string) $input->getOption('repeat');
        if (preg_match('/^[1-9]\d{0,3}$/D', $repeat) !== 1) {
            throw new InvalidArgumentException('--repeat is minutes, from 1 to 9999.');
        }
        $sorts = array_map(
            fn (string $word): string => AlarmSort::tryFrom($word)->value ??
                throw new InvalidArgumentException(
                    "\"$word\" is no sort of alarm: ".implode(', ', array_column(AlarmSort::cases(), 'value')).'.',
                ),
            array_values((array) $input->getOption('about')),
        );
        $groups = array_values((array) $input->getOption('group'));
        $receiver = AlarmReceiver::query()->firstOrNew(['name' => $name]);
        $receiver->fill([
            'kind' => $kind,
            'address' => $address,
            'repeat_min' => (int) $repeat,
            'sorts' => $sorts ?: null,
            'groups' => $groups ?: null,
        ]);
        $isNew = $kind === 'webhook' && $receiver->secret === null;
        $receiver->secret = $kind === 'webhook' ? $receiver->secret ?? 'whsec_'.base64_encode(random_bytes(24)) : null;
        $receiver->save();
        TrailEntry::add("Alarms are sent to $name ($kind, $address) from now on.", null, null, sort: TrailSort::Rule);
        $this->answer(
            self::document($receiver) + ($isNew ? ['secret' => $receiver->secret] : []),
            fn (): array => [
                "Alarms are sent to $name from now on.",
                ...$isNew ? ["The secret by which it knows ours: {$receiver->secret}"] : [],
            ],
        );
    }

    /** @return array{string, string} kind and address */
    private static function address(InputInterface $input): array
    {
        [$mail, $hook] = [$input->getOption('mail'), $input->getOption('webhook')];
        if (($mail === null) === ($hook === null)) {
            throw new InvalidArgumentException('Say with --mail or with --webhook where to.');
        }
        if ($mail !== null) {
            return filter_var($mail, FILTER_VALIDATE_EMAIL) !== false
                ? ['mail', $mail]
                : throw new InvalidArgumentException("\"$mail\" is no address.");
        }
        $parts = parse_url((string) $hook);
        $isHere = in_array($parts['host'] ?? '', ['127.0.0.1', 'localhost', '[::1]'], true);
        $isFit = ($parts['scheme'] ?? '') === 'https' || (($parts['scheme'] ?? '') === 'http' && $isHere);

        return $isFit && strlen($hook) <= 500 && ! isset($parts['user'])
            ? ['webhook', $hook]
            : throw new InvalidArgumentException(
                '--webhook is an https address (http only on this machine), with no name and password in it.',
            );
    }

    private function drop(AlarmReceiver $receiver): void
    {
        $receiver->delete();
        TrailEntry::add("Alarms are not sent to {$receiver->name} any more.", null, null, sort: TrailSort::Rule);
        $this->answer(
            ['receiver' => $receiver->name, 'dropped' => true],
            fn (): array => ["Nothing is sent to {$receiver->name} any more."],
        );
    }

    private function tryOut(AlarmReceiver $receiver): void
    {
        try {
            AlarmSender::to($receiver, 'This is a trial: nothing happened.', '/alarms', 'trial-'.bin2hex(random_bytes(8)));
        } catch (Throwable $failure) {
            throw new InvalidArgumentException("{$receiver->name} did not take it: ".mb_scrub($failure->getMessage()));
        }
        $this->answer(['receiver' => $receiver->name, 'took_it' => true], fn (): array => ["{$receiver->name} took it."]);
    }

    private static function known(?string $name): AlarmReceiver
    {
        return AlarmReceiver::query()->where('name', (string) $name)->first() ??
            throw new InvalidArgumentException("There is no receiver \"$name\"; \"alarm receivers\" shows those there are.");
    }

    /** @return array<string, mixed> */
    private static function document(AlarmReceiver $receiver): array
    {
        return [
            'receiver' => $receiver->name,
            'kind' => $receiver->kind,
            'address' => $receiver->address,
            'about' => $receiver->sorts,
            'groups' => $receiver->groups,
            'repeat_min' => $receiver->repeat_min,
        ];
    }
}
