@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Content\Form')
@php($zone = $view->life->zone)
<x-layout :title="'Compare ' . Shown::name(basename($view->path))" here="Estate">
    <main id="main" class="page">
        <h1 class="mono fs-5">/{{ Shown::name($view->path) }} <span class="muted fs-6 fw-normal"><a class="text-decoration-underline"
                    href="/workloads/{{ $view->workload->id }}/versions?path={{ rawurlencode($view->path) }}" data-key="Backspace">all its
                    versions</a></span></h1>
        @if (!$view->isComplete())
            <p class="empty">Choose two versions of it to compare.</p>
        @else
            @php($old = $view->seen(true))
            @php($new = $view->seen(false))
            <table class="list mb-3">
                <thead>
                    <tr>
                        <th></th>
                        <th>Left: {{ $view->inWords(true) }}</th>
                        <th>Right: {{ $view->inWords(false) }}</th>
                    </tr>
                </thead>
                <tbody>
                    <tr>
                        <th>Size</th>
                        <td><x-size :bytes="max(0, $view->old->version->size)" /></td>
                        <td>
                            @if ($new === null)
                                not readable
                            @else
                                <x-size :bytes="$new->size" />
                            @endif
                        </td>
                    </tr>
                    <tr>
                        <th>Changed</th>
                        <td class="mono">
                            {{ Words::changed($view->old->version->mtime, $zone, 'Y-m-d H:i:s P') }}
                        </td>
                        <td class="mono">
                            {{ Words::changed($view->new?->version->mtime
                                ?? $view->life->live()->mtime, $zone, 'Y-m-d H:i:s P') }}
                        </td>
                    </tr>
                    <tr>
                        <th>BLAKE2b-256</th>
                        <td class="mono small">{{ bin2hex((string) $view->old->version->digest) }}</td>
                        <td class="mono small">{{ $new === null ? '' : bin2hex($new->digest) }}</td>
                    </tr>
                </tbody>
            </table>
            @if ($old === null || $new === null)
                <p class="attention">{{ $old === null ? 'The left one' : 'The right one' }} cannot be read, or is too large to be
                    compared here.</p>
            @elseif ($old->digest === $new->digest)
                <p>They are the same, byte for byte.</p>
            @elseif ($view->form() === Form::Table)
                @php($table = $view->table())
                <p>{{ Words::count(count($table->rows), 'row differs', 'rows differ') }}{{ $table->cells > 0
                    ? ', ' . Words::count($table->cells, 'cell') . ' in rows that both have' : '' }}.
                </p>
                <div class="scroll tall" tabindex="0" role="region" aria-label="Rows that differ">
                    <table class="list cells">
                        <thead>
                            <tr>
                                <th>Row</th>
                                <th></th>
                                @foreach ($table->head as $cell)
                                    <th>{{ $cell }}</th>
                                @endforeach
                            </tr>
                        </thead>
                        <tbody>
                            @foreach (array_slice($table->rows, 0, 1000) as $row)
                                <tr class="{{ $row->left === null ? 'added' : ($row->right === null ? 'removed' : '') }}">
                                    <td class="num">{{ $row->right ?? $row->left }}</td>
                                    <td class="tight">
                                        {{ $row->left === null ? '+ added' : ($row->right === null ? '− gone' : 'changed') }}</td>
                                    @foreach ($row->cells as $column => $cell)
                                        <td>
                                            @if (array_key_exists($column, $row->before))
                                                <del>{{ $row->before[$column] }}</del>
                                                <ins>{{ $cell }}</ins>@else{{ $cell }}
                                            @endif
                                        </td>
                                    @endforeach
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                </div>
            @elseif ($view->form() === Form::Picture)
                <div class="halves">
                    <figure>
                        @if ($view->picture(true) !== null)
                            <img class="seen" alt="Left: {{ $view->inWords(true) }}" src="{{ $view->picture(true) }}">
                        @endif
                    </figure>
                    <figure>
                        @if ($view->picture(false) !== null)
                        <img class="seen" alt="Right: {{ $view->inWords(false) }}" src="{{ $view->picture(false) }}">@else<p
                                class="muted">What stands there now is not shown as a picture; make a set of it first.</p>
                        @endif
                    </figure>
                </div>
            @elseif (($text = $view->text()) !== null)
                <p>{{ Words::count($text->added, 'line') }} added, {{ number_format($text->removed) }}
                    gone{{ $text->isCut || $old->isCut || $new->isCut ? '; only the beginnings were compared' : '' }}.</p>
                <div class="scroll tall" tabindex="0" role="region" aria-label="Lines that differ">
                    <table class="list lines">
                        <tbody>
                            @foreach (array_slice($text->lines, 0, 3000) as $line)
                                @if ($line->isAfterGap)
                                    <tr class="gap">
                                        <td colspan="4">⋯</td>
                                    </tr>
                                @endif
                                <tr class="{{ $line->left === null ? 'added' : ($line->right === null ? 'removed' : '') }}">
                                    <td class="num muted">{{ $line->left }}</td>
                                    <td class="num muted">{{ $line->right }}</td>
                                    <td class="sign">{{ $line->left === null ? '+' : ($line->right === null ? '−' : '') }}</td>
                                    <td class="mono">{{ $line->text }}</td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                </div>
            @else<p>They differ, and are neither text nor pictures: size, time and digest say all that can be said.</p>
            @endif
        @endif
    </main>
</x-layout>
