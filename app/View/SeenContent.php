<?php

declare(strict_types=1);

namespace App\View;

use App\Instance;
use Kaiseki\Core\Content\Form;
use Kaiseki\Core\Content\OfficeText;
use Kaiseki\Core\Content\PlainText;
use Kaiseki\Core\Content\TableRows;
use Symfony\Component\Process\Exception\ExceptionInterface;
use Symfony\Component\Process\Process;

/**
 * A content as far as it can be shown safely: as text, as rows of cells, or as a picture that is drawn anew. Nothing of it
 * ever reaches the browser as it is.
 */
final readonly class SeenContent
{
    /** So much of a content is taken to be shown. */
    private const MOST = 1 << 20;

    private const ROWS = 3000;

    private function __construct(
        public Form $form,
        /** Null where it is no text, and none can be taken out of it. */
        public ?string $text,
        public int $size,
        /** Whether there is more than is shown. */
        public bool $isCut,
        public string $digest,
    ) {
    }

    /** @param  resource  $stream  standing at its beginning */
    public static function of($stream, string $name, int $size, string $digest): self
    {
        $head = (string) stream_get_contents($stream, self::MOST, 0);
        $form = Form::of(substr($head, 0, 8192), $name);
        $text = match ($form) {
            Form::Text, Form::Table => PlainText::of($head),
            Form::Office => self::withFile($stream, fn (string $file): ?string => OfficeText::of($file, self::MOST)),
            Form::Pdf => self::withFile($stream, self::pdf(...)),
            default => null,
        };

        return new self(
            $form,
            $text,
            $size,
            in_array($form, [Form::Text, Form::Table], true) ? $size > self::MOST : $text !== null && strlen($text) >= self::MOST,
            $digest,
        );
    }

    /** @return list<list<string>> */
    public function rows(int $most = self::ROWS): array
    {
        return $this->text === null ? [] : TableRows::of($this->text, $most);
    }

    /** By pdftotext (poppler), in a process of its own that may take neither long nor much. */
    private static function pdf(string $file): ?string
    {
        try {
            $process = new Process(
                ['prlimit', '--as=536870912', '--cpu=10', 'pdftotext', '-q', '-l', '30', '-layout', '-enc', 'UTF-8', $file, '-'],
                null,
                null,
                null,
                20,
            );

            return $process->run() === 0 ? mb_strcut(mb_scrub(str_replace("\f", "\n", $process->getOutput())), 0, self::MOST) : null;
        } catch (ExceptionInterface) {
            return null;
        }
    }

    /**
     * @param  resource  $stream
     * @param  callable(string): (string|null)  $take
     */
    private static function withFile($stream, callable $take): ?string
    {
        $file = (string) tempnam(Instance::folder('tmp'), 'seen-');
        try {
            rewind($stream);
            file_put_contents($file, $stream);

            return $take($file);
        } finally {
            @unlink($file);
        }
    }
}
