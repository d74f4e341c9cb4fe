@use('App\Trees\Places\ExtendedAttributes')
@use('App\Words')
@use('Illuminate\Support\Str')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Content\Form')
@use('Kaiseki\Core\Files\Permissions')
@php($zone = auth()->user()->zone)
<x-layout :title="Shown::name(basename($path))" here="Estate">
    <main id="main" class="page">
        <h1 class="mono fs-5">/{{ Shown::name($path) }}</h1>
        <p>As it was on <x-moment :at="$set->captured_at" :zone="$zone" /> in {{ $set->workload->name }}: <x-size
            :bytes="max(0, $version->size)" />,
            changed <span
                class="mono">{{ Words::changed($version->mtime, $zone, 'Y-m-d H:i:s P') }}</span>.
            <a class="text-decoration-underline" href="/workloads/{{ $set->workload_id }}/versions?path={{ rawurlencode($path) }}"
                data-key="Backspace">All its versions</a> · <a class="text-decoration-underline" hx-boost="false"
                href="/sets/{{ $set->id }}/file?path={{ rawurlencode($path) }}">Take a copy</a>
        </p>
        <dl class="facts mb-3">
            <dt>Owner</dt>
            <dd class="mono">
                {{ Shown::name($version->owner()) }}, {{ Permissions::modeInWords($version->mode) }}
                ({{ sprintf('%04o', $version->mode) }})</dd>
            @if ($version->access !== '')
                <dt>Access list</dt>
                <dd class="mono">{{ str_replace(',', ' ', $version->access) }}</dd>
            @endif
            @foreach (ExtendedAttributes::of($set, $path, $version) as $name => $value)
                <dt>xattr {{ Shown::name($name) }}</dt>
                <dd class="mono">{{ Str::limit(Shown::name($value), 300) }}</dd>
            @endforeach
            <dt>BLAKE2b-256</dt>
            <dd class="mono">{{ bin2hex((string) $version->digest) }}</dd>
        </dl>
        @if ($record !== null)
            @include('library-record')
        @endif
        @if ($isTooLarge)
            <p class="empty">It is too large to be shown here. Take a copy.</p>
        @elseif ($seen === null)
            <p class="attention">
                {{ $onShelf === [] ? 'Its content is in no archive that can be read.'
                    : 'Its content is on the shelf: ' . implode(' and ', $onShelf) . '. Ask for it under Stores.' }}
            </p>
        @elseif ($seen->form === Form::Picture)
            <p class="muted">Drawn anew, smaller if it is large.</p><img class="seen" alt="The picture as it was"
                src="/sets/{{ $set->id }}/picture?path={{ rawurlencode($path) }}">
        @elseif ($seen->form === Form::Table)
            @php($rows = $seen->rows(500))
            <div class="scroll tall" tabindex="0" role="region" aria-label="Its rows">
                <table class="list cells">
                    @foreach ($rows as $row)
                        <tr>
                            @foreach ($row as $cell)
                                <td>{{ $cell }}</td>
                            @endforeach
                        </tr>
                    @endforeach
                </table>
            </div>
            @if ($seen->isCut || count($rows) === 500)
                <p class="muted">The beginning of it.</p>
            @endif
        @elseif ($seen->text !== null)
            @if ($seen->form !== Form::Text)
                <p class="muted">The words in it, without how they look.</p>
            @endif
            <pre class="seen" tabindex="0" role="region" aria-label="Its text">{{ $seen->text }}</pre>
            @if ($seen->isCut)
                <p class="muted">The beginning of it.</p>
            @endif
        @else<p class="empty">
                {{ $version->size === 0 ? 'It is empty.'
                    : 'It is neither text nor a picture that could be shown safely. Take a copy to look at it.' }}
            </p>
        @endif
    </main>
</x-layout>
