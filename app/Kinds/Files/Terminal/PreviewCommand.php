<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Trees\Run\PathInJson;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Files\Deed;
use Kaiseki\Core\Files\Preview;
use Kaiseki\Core\Files\PreviewLine;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

final class PreviewCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('preview')
            ->setDescription('Compares what a restore would bring with what is there now; writes nothing')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload');
        OrderFromInput::describe($this);
        $this->addDemand();
        $this->addCopyRule();
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $paths =
            $input->getOption('path') === []
                ? throw new InvalidArgumentException('Say with --path what would be brought back; --path=/ is the whole tree.')
                : self::paths($input);
        $order = OrderFromInput::read($input, $workload, $paths, self::copyRule($input));
        $look = $order->plan->look();
        $preview = new Preview($order->planned->order, $look);
        $lines = [...$preview->lines()];
        $fits = $look->freeBytes() >= $preview->bytesNeeded();
        $this->answer(
            [
                'point' => $order->point->name,
                'order' => $order->plan->sentence,
                'target' => PathInJson::of($order->plan->target)['path'],
                'counts' => $preview->counts(),
                'bytes_needed' => $preview->bytesNeeded(),
                'bytes_set_aside' => $preview->bytesSetAside(),
                'bytes_free' => $look->freeBytes(),
                'fits' => $fits,
                'warnings' => $preview->warnings(),
                'entries' => array_map(self::row(...), $lines),
            ],
            function () use ($lines, $preview, $order, $fits, $look): iterable {
                yield $order->plan->sentence;
                foreach ($preview->counts() as $deed => $count) {
                    if ($count->entries > 0) {
                        yield sprintf(
                            '  %9s  %s, %s',
                            number_format($count->entries),
                            Deed::from($deed)->words(),
                            Words::size($count->bytes),
                        );
                    }
                }
                foreach ($lines as $line) {
                    yield sprintf(
                        '%-16s /%s%s%s%s',
                        $line->deed->value,
                        $line->path,
                        $line->isFolder ? '/' : '',
                        $line->because === '' ? '' : ": {$line->because}",
                        $line->openIn === null ? '' : "; {$line->openIn} has it open for writing",
                    );
                }
                yield from $preview->warnings();
                yield $fits
                    ? 'It fits: '.Words::size($look->freeBytes()).' are free.'
                    : 'It does not fit: '.
                        Words::size($preview->bytesNeeded()).
                        ' are needed, '.
                        Words::size($look->freeBytes()).
                        ' are free.';
            },
        );

        return $fits ? self::DONE : self::BLOCKED;
    }

    /** @return array<string, mixed> */
    private static function row(PreviewLine $line): array
    {
        return PathInJson::of('/'.$line->path) +
            array_filter(
                [
                    'deed' => $line->deed->value,
                    'because' => $line->because,
                    'folder' => $line->isFolder,
                    'bytes' => $line->bytes,
                    'present' => $line->present === null
                            ? null
                            : ['type' => $line->present->typeInWords(), 'size' => $line->present->size, 'newer' => $line->presentIsNewer],
                    'open_in' => $line->openIn,
                ],
                fn (mixed $value): bool => $value !== null && $value !== '' && $value !== false,
            );
    }
}
