# Sequor over services that run elsewhere; what it does is the command: a web server or a worker (docs/scaling.md).
FROM node:20-bookworm-slim AS pages
WORKDIR /sequor/frontend
COPY frontend/package.json frontend/package-lock.json ./
RUN npm ci --no-audit --no-fund
COPY frontend ./
RUN npm run build

FROM python:3.11-slim-bookworm
RUN apt-get update && apt-get install -y --no-install-recommends mariadb-client libgomp1 util-linux \
    && rm -rf /var/lib/apt/lists/*
WORKDIR /sequor
COPY requirements requirements
RUN python -m venv .venv \
    && .venv/bin/pip install --no-cache-dir --require-hashes -r requirements/uv.lock \
    && .venv/bin/uv pip install --compile-bytecode --python .venv/bin/python --require-hashes -r requirements/run.lock \
    && cp requirements/run.lock .venv/.run.lock
COPY bin bin
COPY src src
COPY demo demo
COPY --from=pages /sequor/frontend/dist frontend/dist
# Kernels are compiled here, once, and not by the first picture.
RUN . bin/environment && need_kernels
RUN useradd --create-home sequor && mkdir /data && chown sequor /data
USER sequor
VOLUME /data
ENV PYTHONPATH=/sequor/src
ENTRYPOINT ["/sequor/.venv/bin/python", "-m"]
CMD ["sequor.launch.worker", "--data", "/data"]
